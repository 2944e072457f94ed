import { ChevronLeft, CloudOff } from "lucide-react";
import { useEffect, useState } from "react";
import { bound } from "../parts/bound";
import { howItWent, type Tried, useSettingUp } from "./settingUp";

/** Setting up in the hall with one hand: board by board, what is tried at each joint, and the proof before the doors open. */
export function SetUp({ onBack }: { onBack: () => void }) {
  const state = useSettingUp();
  const { list, show, waiting, through, wrong, open, name } = state;
  useEffect(() => void open(), [open]);
  const every = (list?.steps ?? []).flatMap((s) => [...s.before, ...s.after, ...s.live]);
  const tried = every.filter((t) => howItWent(state, t.key)).length;
  return (
    <>
      <header className="flex items-center gap-3 px-4 pt-3 pb-1">
        <button type="button" className="flex h-11 items-center text-[15px] text-mute" onClick={onBack}>
          <ChevronLeft size={20} aria-hidden="true" /> Boards
        </button>
        <h1 className="flex-1 text-right font-bold text-lg">Set up</h1>
      </header>
      {waiting.length || !through ? (
        <p role="status" className="flex items-center gap-2 bg-board px-4 py-1.5 text-[13px] text-amber">
          <CloudOff size={15} aria-hidden="true" />
          {wrong && through
            ? wrong
            : `${waiting.length ? `${waiting.length} ${waiting.length === 1 ? "tick waits" : "ticks wait"} on this phone` : "No connection"}; sent by itself when the club’s computer answers.`}
        </p>
      ) : null}
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-6">
        <label className="mt-1 flex items-center gap-2.5 text-[14px] text-mute">
          Show
          <input
            className="min-w-0 flex-1 rounded-lg border border-line bg-card px-3 py-2 text-[16px] text-ink"
            value={show}
            maxLength={80}
            placeholder="Autumn fair, Dunmere"
            onChange={(e) => name(e.target.value)}
          />
        </label>
        {!list ? <p className="pt-4 text-mute">Putting the boards in order…</p> : null}
        {list && !list.steps.length ? <p className="pt-4 text-mute">{list.words}</p> : null}
        {every.length ? (
          <p className="mt-2 text-[14px] text-mute">
            <span className="figure">
              {tried} of {every.length}
            </span>{" "}
            tried at the joints{list?.standing.length ? `; stands already: ${list.standing.join(", ")}` : ""}
          </p>
        ) : null}
        <ol>
          {(list?.steps ?? []).map((s) => (
            <li key={s.board} className="mt-3" data-step={s.board}>
              <h2 className="font-bold text-[18px]">
                <span className="figure">{s.number}</span> {s.name}
                {s.box ? <span className="font-normal text-[15px] text-mute"> out of {s.box}</span> : null}
              </h2>
              <p className="text-[15px]">{s.words}</p>
              <Tests title="Before it is bolted up" tests={s.before} />
              <Tests title="Bolted and mated, power off" tests={s.after} />
              <Tests title="Power on" tests={s.live} />
            </li>
          ))}
        </ol>
        {list?.proof.length ? (
          <section className="mt-5" aria-label="Before the doors open">
            <h2 className="font-bold text-[18px]">Before the doors open</h2>
            <p className="text-[15px]">{list.proof_words} A coin is touched, never held.</p>
            <Tests title="" tests={list.proof} />
          </section>
        ) : null}
      </div>
    </>
  );
}

function Tests({ title, tests }: { title: string; tests: Tried[] }) {
  if (!tests.length) return null;
  return (
    <>
      {title ? <h3 className="mt-2 font-semibold text-[14px] text-mute">{title}</h3> : null}
      <ul>
        {tests.map((t) => (
          <One key={t.key} test={t} />
        ))}
      </ul>
    </>
  );
}

function One({ test }: { test: Tried }) {
  const state = useSettingUp();
  const went = howItWent(state, test.key);
  const [unnamed, setUnnamed] = useState(false);
  const [note, setNote] = useState(went?.note ?? "");
  const say = (how: "sound" | "failed") => {
    if (!state.show.trim()) return setUnnamed(true);
    setUnnamed(false);
    state.say(test, went?.state === how ? "open" : how, how === "failed" ? note : "");
  };
  const button = (how: "sound" | "failed", words: string, on: string) => (
    <button
      type="button"
      aria-pressed={went?.state === how}
      className={`h-12 rounded-lg border font-semibold text-[16px] ${went?.state === how ? on : "border-line bg-board"}`}
      onClick={() => say(how)}
    >
      {words}
      <span className="sr-only">: {test.title}</span>
    </button>
  );
  return (
    <li className="mt-2 rounded-xl border border-line bg-card px-3.5 py-2.5" data-test={test.key}>
      <b className="text-[16px]">{bound(test.title)}</b>
      {test.failed ? <span className="text-[14px] text-amber"> failed {test.failed} × before</span> : null}
      <p className="text-[15px]">{bound(test.words)}</p>
      <p className="text-[15px] text-mute">
        Should be: <span className="figure">{bound(test.foretold)}</span>
      </p>
      <div className="mt-2 grid grid-cols-2 gap-2.5">
        {button("failed", "Failed", "border-oxide text-oxide")}
        {button("sound", "Sound", "border-verd text-verd")}
      </div>
      {went?.state === "failed" ? (
        <label className="mt-2 block text-[14px] text-mute">
          What was wrong, and what mended it
          <input
            className="mt-0.5 w-full rounded-lg border border-line bg-board px-3 py-2 text-[16px] text-ink"
            value={note}
            maxLength={500}
            placeholder="Pin 3 pushed back in"
            onChange={(e) => setNote(e.target.value)}
            onBlur={() => note !== went.note && state.say(test, "failed", note)}
          />
        </label>
      ) : null}
      {unnamed ? (
        <p role="alert" className="mt-1 text-[14px] text-oxide">
          Name the show first, above.
        </p>
      ) : null}
    </li>
  );
}
