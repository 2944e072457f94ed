import { ChevronLeft, ChevronRight, CloudOff, List } from "lucide-react";
import { useEffect, useState } from "react";
import { bound } from "../parts/bound";
import { type Test, useProvingUnder } from "./proving";

const TIERS = ["must", "every part", "every joint"];
const WHICH = [
  ["must", "Fewest places"],
  ["building", "While building"],
] as const;
type Which = (typeof WHICH)[number][0];

/** Proving with one hand: one test at a time, what is sound, and the field for what the meter shows. */
export function Prove({ onBack }: { onBack: () => void }) {
  const { bench, judged, waiting, through, open } = useProvingUnder();
  const [which, setWhich] = useState<Which>("must");
  const [board, setBoard] = useState("");
  const [key, setKey] = useState<string | null>(null);
  useEffect(() => void open(), [open]);
  const tests = (bench?.tests ?? []).filter(
    (t) =>
      (!board || t.board === board) &&
      (which === "must" ? t.kind === "load" && t.tier === TIERS[0] : t.kind !== "load" || t.tier === TIERS[0]),
  );
  const at = tests.findIndex((t) => t.key === key);
  const test = tests[at];
  const said = (t: Test) =>
    judged[t.key] ?? (t.last ? { shown: t.last.shown, sound: t.last.sound, words: t.last.verdict } : null);
  return (
    <>
      <header className="flex items-center gap-3 px-4 pt-3 pb-1">
        <button
          type="button"
          className="flex h-11 items-center text-[15px] text-mute"
          onClick={() => (test ? setKey(null) : onBack())}
        >
          <ChevronLeft size={20} aria-hidden="true" /> {test ? "All tests" : "Boards"}
        </button>
        <h1 className="flex-1 text-right font-bold text-lg">Prove</h1>
      </header>
      {waiting.length || !through ? (
        <p role="status" className="flex items-center gap-2 bg-board px-4 py-1.5 text-[13px] text-amber">
          <CloudOff size={15} aria-hidden="true" />
          {waiting.length ? `${waiting.length} readings wait on this phone` : "No connection"}; sent by itself when the
          club’s computer answers.
        </p>
      ) : null}
      {!bench ? <p className="p-4 text-mute">Working out what every place should read…</p> : null}
      {bench && !test ? (
        <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-4">
          <div className="grid grid-cols-2 gap-2.5">
            {WHICH.map(([name, words]) => (
              <button
                key={name}
                type="button"
                aria-pressed={which === name}
                className={`h-11 rounded-lg border font-semibold text-[15px] ${which === name ? "border-copper text-copper" : "border-line"}`}
                onClick={() => setWhich(name)}
              >
                {words}
              </button>
            ))}
          </div>
          <label className="mt-2.5 flex items-center gap-2.5 text-[14px] text-mute">
            Board
            <select
              className="min-w-0 flex-1 rounded-lg border border-line bg-card px-3 py-2 text-[16px] text-ink"
              value={board}
              onChange={(e) => setBoard(e.target.value)}
            >
              <option value="">all</option>
              {bench.boards.map((b) => (
                <option key={b}>{b}</option>
              ))}
            </select>
          </label>
          <ul data-testid="prove-list">
            {tests.map((t) => {
              const now = said(t);
              return (
                <li key={t.key}>
                  <button
                    type="button"
                    className="mt-2 block w-full rounded-xl border border-line bg-card px-3.5 py-2.5 text-left"
                    onClick={() => setKey(t.key)}
                  >
                    <span className="flex items-baseline gap-2">
                      <b className="min-w-0 flex-1 text-[16px]">{bound(t.title)}</b>
                      <span
                        className={`figure text-[14px] ${now?.sound === false ? "text-oxide" : now?.sound ? "text-verd" : "text-mute"}`}
                      >
                        {now ? now.shown : ""}
                      </span>
                    </span>
                    <span className="block text-[13.5px] text-mute">{bound(t.where)}</span>
                  </button>
                </li>
              );
            })}
          </ul>
          {tests.length ? null : <p className="pt-4 text-mute">Nothing to test here.</p>}
        </div>
      ) : null}
      {test ? (
        <One
          key={test.key}
          test={test}
          said={said(test)}
          place={`${at + 1} of ${tests.length}`}
          onStep={(by) => setKey(tests[at + by]?.key ?? test.key)}
          onAll={() => setKey(null)}
        />
      ) : null}
    </>
  );
}

type OneProps = {
  test: Test;
  said: { shown: string; sound: boolean | null; words: string } | null;
  place: string;
  onStep: (by: number) => void;
  onAll: () => void;
};

function One({ test, said, place, onStep, onAll }: OneProps) {
  const { keep } = useProvingUnder();
  const [text, setText] = useState("");
  const [amps, setAmps] = useState("");
  const say = (shown: string) => {
    if (!shown.trim()) return;
    const drawn = Number(amps.replace(",", "."));
    keep(test, shown.trim(), amps.trim() && Number.isFinite(drawn) ? drawn : null);
    setText("");
  };
  const rows: [string, string][] = [
    ["Where", test.where],
    ["First", test.prepare],
    ["Meter", test.settings.join(", or ")],
  ];
  return (
    <>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-2">
        <div className="flex items-baseline gap-2">
          <h2 className="min-w-0 flex-1 font-bold text-[20px] leading-tight">{bound(test.title)}</h2>
          <span className="figure text-[14px] text-mute">{place}</span>
        </div>
        <dl className="mt-2 flex flex-col gap-2">
          {rows.map(([heading, words]) => (
            <div key={heading} className="rounded-xl bg-card px-3.5 py-2">
              <dt className="text-[13px] text-mute">{heading}</dt>
              <dd className="font-semibold text-[15.5px]">{bound(words)}</dd>
            </div>
          ))}
          <div className="rounded-xl border border-verd px-3.5 py-2">
            <dt className="text-[13px] text-mute">Sound is</dt>
            <dd className="font-bold text-[19px]">{bound(test.band || test.foretold)}</dd>
          </div>
        </dl>
        {test.caution ? (
          <p className="mt-2 rounded-xl border border-amber px-3.5 py-2 text-[14px]">{test.caution}</p>
        ) : null}
        {said ? (
          <p
            role="status"
            className={`mt-2 rounded-xl border px-3.5 py-2 text-[15px] ${said.sound === false ? "border-oxide" : said.sound ? "border-verd" : "border-line"}`}
          >
            <b className="figure">{bound(said.shown)}</b>: {bound(said.words)}
          </p>
        ) : null}
      </div>
      <form
        className="px-4 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          say(text);
        }}
      >
        {test.unit === "yes" ? (
          <div className="grid grid-cols-2 gap-2.5">
            <button
              type="button"
              className="h-16 rounded-xl border border-line bg-board font-bold"
              onClick={() => say("no")}
            >
              Not so
            </button>
            <button
              type="button"
              className="h-16 rounded-xl bg-copper font-bold text-[#1a1208] text-[18px]"
              onClick={() => say("yes")}
            >
              As it should be
            </button>
          </div>
        ) : (
          <div className="flex gap-2.5">
            <input
              className="figure h-16 min-w-0 flex-1 rounded-xl border border-line bg-card px-3 text-[22px] text-ink"
              aria-label="What the meter shows"
              value={text}
              inputMode="text"
              autoComplete="off"
              placeholder={test.unit === "Ω" ? "0.4 or OL" : "240 mV"}
              onChange={(e) => setText(e.target.value)}
            />
            {test.kind === "load" ? (
              <input
                className="figure h-16 w-[76px] rounded-xl border border-line bg-card px-2 text-[17px] text-ink"
                aria-label="Amps drawn"
                value={amps}
                inputMode="decimal"
                placeholder="1 A"
                onChange={(e) => setAmps(e.target.value)}
              />
            ) : null}
            <button type="submit" className="h-16 w-[92px] rounded-xl bg-copper font-bold text-[#1a1208] text-[18px]">
              Keep
            </button>
          </div>
        )}
      </form>
      <nav aria-label="Other tests" className="grid grid-cols-3 gap-2.5 px-4 pb-3 text-[15px] text-mute">
        <button type="button" className="flex h-11 items-center justify-center" onClick={() => onStep(-1)}>
          <ChevronLeft size={20} aria-hidden="true" /> Before
        </button>
        <button type="button" className="flex h-11 items-center justify-center gap-1.5" onClick={onAll}>
          <List size={18} aria-hidden="true" /> All
        </button>
        <button type="button" className="flex h-11 items-center justify-center" onClick={() => onStep(1)}>
          Next <ChevronRight size={20} aria-hidden="true" />
        </button>
      </nav>
    </>
  );
}
