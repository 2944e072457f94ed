import { useEffect, useRef, useState } from "react";
import { useRailroad } from "../store/railroad";
import type { Task } from "./store";

/** What a page kept on the phone by an older version has. */
const NONE: Task["numbers"] = [];

/** The numbers of a detector board: each ticks itself as the railroad reports it, when an engine is put on its section.
 * Once all have come the task is said to be tried. */
export function NumbersHeard({ task, onAll }: { task: Task; onAll: (reading: string) => void }) {
  const { port, listening, trouble, lit, last, listen, hangUp } = useRailroad();
  const [heard, setHeard] = useState<ReadonlySet<number>>(new Set());
  const [strange, setStrange] = useState<string | null>(null);
  const [typed, setTyped] = useState(String(port));
  const told = useRef(false);
  const numbers = task.numbers ?? NONE;
  useEffect(() => {
    const came = [...lit.values()].flatMap((s) => (s.address === null ? [] : [s.address]));
    const mine = came.filter((n) => numbers.some((x) => x.number === n));
    setHeard((was) => (mine.every((n) => was.has(n)) ? was : new Set([...was, ...mine])));
  }, [lit, numbers]);
  useEffect(() => {
    if (!last || numbers.some((x) => x.number === last.address)) setStrange(null);
    else
      setStrange(
        last.address === null ? null : `Number ${last.address} came: it is ${last.section}, of another board.`,
      );
  }, [last, numbers]);
  const all = numbers.length > 0 && numbers.every((x) => heard.has(x.number));
  useEffect(() => {
    if (!all || told.current || !listening) return;
    told.current = true;
    onAll(`all ${numbers.length} numbers came`);
  }, [all, listening, numbers, onAll]);
  if (!numbers.length) return null;
  const bad = !/^\d+$/.test(typed) || Number(typed) < 1024 || Number(typed) > 65535;
  return (
    <section
      aria-label="Numbers that come"
      className="mt-2.5 rounded-xl border border-mute border-dashed px-3.5 py-2.5 text-[14px]"
    >
      <div className="flex items-center gap-2">
        <p className="min-w-0 flex-1 text-mute">
          {listening
            ? `An engine on each section: ${heard.size} of ${numbers.length} came`
            : "Its numbers tick themselves while the railroad is listened to."}
        </p>
        {listening ? null : (
          <label className="flex-none text-[12px] text-mute">
            Port
            <input
              inputMode="numeric"
              className="figure ml-1 h-11 w-[68px] rounded-lg border border-line bg-card px-2 text-[16px] text-ink"
              value={typed}
              aria-invalid={bad}
              onChange={(e) => setTyped(e.target.value)}
            />
          </label>
        )}
        <button
          type="button"
          disabled={bad && !listening}
          className="h-11 flex-none disabled:opacity-35 rounded-lg border border-line bg-board px-3 font-semibold"
          onClick={() => (listening ? hangUp() : listen(Number(typed)))}
        >
          {listening ? "Hang up" : "Listen"}
        </button>
      </div>
      <ul className="mt-1.5 grid grid-cols-2 gap-x-3">
        {numbers.map((x) => (
          <li
            key={x.number}
            data-heard={heard.has(x.number)}
            className={`flex gap-2 py-0.5 ${heard.has(x.number) ? "text-verd" : ""}`}
          >
            <span className="figure w-10 text-right font-semibold">{x.number}</span>
            <span className="min-w-0 flex-1 truncate">{x.words}</span>
            <span>{heard.has(x.number) ? "✓ came" : ""}</span>
          </li>
        ))}
      </ul>
      {strange ? <p className="mt-1 text-amber">{strange}</p> : null}
      {bad && !listening ? (
        <p role="alert" className="mt-1 text-oxide">
          The port of the club&apos;s computer: 1024 to 65535.
        </p>
      ) : null}
      {trouble ? (
        <p role="status" className="mt-1">
          {trouble}
        </p>
      ) : null}
    </section>
  );
}
