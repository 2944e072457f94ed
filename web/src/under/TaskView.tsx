import { ChevronLeft, ChevronRight, List } from "lucide-react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { bound } from "../parts/bound";
import { inkOf } from "../parts/Swatch";
import { HowItIsDone } from "./HowItIsDone";
import { NumbersHeard } from "./NumbersHeard";
import { type Board, countingWork, isDone, type State, type Task, useUnder } from "./store";
import { TroubleSheet } from "./TroubleSheet";
import { Waiting } from "./Waiting";
import { SAYS, saidOf } from "./words";

/** One thing to do: its label, colours, ends, wire, what to meter, and two big buttons for a thumb. */
export function TaskView({ board, task }: { board: Board; task: Task }) {
  const { pages, waiting, mark, go } = useUnder();
  const work = useMemo(() => countingWork(pages, waiting), [pages, waiting]);
  const [trouble, setTrouble] = useState(false);
  const [reading, setReading] = useState("");
  const at = board.tasks.findIndex((t) => t.key === task.key);
  const done = work.get(task.key);
  const finished = board.tasks.filter((t) => isDone(t, work.get(t.key))).length;
  const says = SAYS[task.kind];
  const outdated = done && done.state !== "open" && done.told !== task.told;
  const half = ["Wire", "Cut each to"];
  const step = (by: number) => {
    const there = board.tasks[at + by];
    if (there) go(board.key, there.key);
  };
  const onwards = () => {
    const open = (t: Task) => t.key !== task.key && !isDone(t, work.get(t.key)) && work.get(t.key)?.state !== "trouble";
    const next = board.tasks.slice(at + 1).find(open) ?? board.tasks.find(open);
    go(board.key, next?.key ?? null);
  };
  const say = (state: State, note = "") => {
    mark(task, state, note, reading.trim());
    if (state !== "open") onwards();
  };
  // Tried, and whoever did it looks once more before it is finished.
  const heardAll = useCallback((read: string) => mark(task, "wired", "", read), [mark, task]);
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLElement && event.target.matches("input, textarea, button")) return;
      if (event.key === "ArrowRight") step(1);
      if (event.key === "ArrowLeft") step(-1);
    };
    addEventListener("keydown", keys);
    return () => removeEventListener("keydown", keys);
  });
  useEffect(() => {
    // A lit screen while hands are busy, where the browser allows it.
    let lamp: { release: () => Promise<void> } | null = null;
    navigator.wakeLock?.request("screen").then(
      (lit) => {
        lamp = lit;
      },
      () => undefined,
    );
    return () => void lamp?.release().catch(() => undefined);
  }, []);
  return (
    <>
      <header className="px-4 pt-3">
        <div className="flex items-baseline text-[14px]">
          <b>{board.name}</b>
          <span className="flex-1 pl-1.5 text-mute"> · {says.name.toLowerCase()}</span>
          <span className="figure text-mute">
            {at + 1} of {board.tasks.length}
          </span>
        </div>
        <div
          className="mt-2 h-1.5 overflow-hidden rounded bg-board"
          role="progressbar"
          aria-label={`${finished} of ${board.tasks.length} done`}
          aria-valuemin={0}
          aria-valuemax={board.tasks.length}
          aria-valuenow={finished}
        >
          <div
            className="h-full bg-copper"
            style={{ width: `${(100 * finished) / Math.max(board.tasks.length, 1)}%` }}
          />
        </div>
      </header>
      <Waiting />
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pt-1 pb-2">
        <div className="flex min-h-[72px] items-center gap-4">
          <h1
            className={`font-bold leading-none tracking-tight ${task.label.length > 7 ? "text-[38px]" : "figure text-[60px]"}`}
          >
            {task.label}
          </h1>
          {task.colours.length ? <BigSwatch colours={task.colours} /> : null}
        </div>
        {done && done.state !== "open" ? (
          <div
            className={`mt-1 mb-2 rounded-xl border px-3.5 py-2 text-[14px] ${done.state === "trouble" || outdated ? "border-amber text-amber" : "border-verd text-verd"}`}
          >
            {saidOf(task, done)}
            {done.note ? <p className="text-ink">{done.note}</p> : null}
            {outdated ? <p>The plan changed since: do it again as it says here.</p> : null}
            <button type="button" className="mt-1 font-semibold underline" onClick={() => say("open")}>
              Take it back
            </button>
          </div>
        ) : null}
        <dl className="mt-1.5 grid grid-cols-2 gap-2.5">
          {task.rows.map((row) => (
            <div
              key={row.heading}
              className={`rounded-xl bg-card px-3.5 py-2.5 ${half.includes(row.heading) ? "" : "col-span-2"}`}
            >
              <dt className="text-[13px] text-mute">{row.heading}</dt>
              <dd
                className={`font-bold text-[17px] ${half.includes(row.heading) ? "figure font-semibold text-[16px]" : ""}`}
              >
                {bound(row.words)}
              </dd>
            </div>
          ))}
        </dl>
        {task.meter ? (
          <div className="mt-2.5 rounded-xl border border-mute border-dashed px-3.5 py-2.5">
            <p className="text-[13px] text-mute">Before the next one</p>
            <p className="text-[15.5px]">{task.meter}</p>
          </div>
        ) : null}
        <NumbersHeard key={task.key} task={task} onAll={heardAll} />
        <HowItIsDone kind={task.kind} />
        {task.kind !== "terminal" ? (
          <label className="mt-2.5 flex items-center gap-2.5 text-[14px] text-mute">
            Meter read
            <input
              className="figure min-w-0 flex-1 rounded-lg border border-line bg-card px-3 py-2 text-[16px] text-ink"
              value={reading}
              maxLength={60}
              placeholder="if you like: 0.4 Ω, 14.2 V"
              onChange={(e) => setReading(e.target.value)}
            />
          </label>
        ) : null}
      </div>
      <nav aria-label="Other tasks" className="grid grid-cols-3 gap-2.5 px-4 text-[15px] text-mute">
        <button
          type="button"
          className="flex h-11 items-center justify-center disabled:opacity-35"
          disabled={at <= 0}
          onClick={() => step(-1)}
        >
          <ChevronLeft size={20} aria-hidden="true" /> Before
        </button>
        <button
          type="button"
          className="flex h-11 items-center justify-center gap-1.5"
          onClick={() => go(board.key, null)}
        >
          <List size={18} aria-hidden="true" /> All
        </button>
        <button
          type="button"
          className="flex h-11 items-center justify-center disabled:opacity-35"
          disabled={at >= board.tasks.length - 1}
          onClick={() => step(1)}
        >
          Skip <ChevronRight size={20} aria-hidden="true" />
        </button>
      </nav>
      <footer className="flex gap-2.5 px-4 pt-1 pb-4">
        <button
          type="button"
          className="h-16 w-[92px] flex-none rounded-xl border border-line bg-board font-bold text-[16px]"
          onClick={() => setTrouble(true)}
        >
          Trouble
        </button>
        {says.half ? (
          <button
            type="button"
            className="h-16 w-[76px] flex-none rounded-xl border border-line bg-board font-bold text-[15px] leading-tight"
            onClick={() => say("wired")}
          >
            {says.half}
          </button>
        ) : null}
        <button
          type="button"
          className="h-16 min-w-0 flex-1 rounded-xl bg-copper font-bold text-[18px] text-[#1a1208] leading-tight"
          onClick={() => say("tested")}
        >
          {says.all}
        </button>
      </footer>
      {trouble ? (
        <TroubleSheet task={task} onClose={() => setTrouble(false)} onSay={(note) => say("trouble", note)} />
      ) : null}
    </>
  );
}

/** Its wires in their colours, large; what they are called stands at both ends below. */
function BigSwatch({ colours }: { colours: string[] }) {
  const tall = colours.length > 2 ? 14 : 21;
  const height = 4 + tall * colours.length;
  return (
    <svg
      width="112"
      height={height}
      viewBox={`0 0 112 ${height}`}
      role="img"
      aria-label={colours.join(" and ")}
      className="shrink-0"
    >
      {colours.map((colour, n) => {
        const [base = "grey", stripe] = colour.split("/");
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: wire A above, wire B below
          <g key={n}>
            <rect x="2" y={2 + tall * n} width="108" height={tall} fill={inkOf(base)} />
            {stripe
              ? [18, 42, 66, 90].map((x) => (
                  <path
                    key={x}
                    d={`M${x - 5} ${2 + tall * (n + 1)}l${tall / 2}-${tall}`}
                    stroke={inkOf(stripe)}
                    strokeWidth="7"
                  />
                ))
              : null}
          </g>
        );
      })}
      <rect x="1.5" y="1.5" width="109" height={height - 3} rx="7" fill="none" stroke="var(--ink)" strokeWidth="2" />
    </svg>
  );
}
