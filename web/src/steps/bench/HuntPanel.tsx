import { Undo2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Shape } from "../../api/client";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { minutes } from "./states";

type Standing = Shape["HuntStanding"];
type Act = Shape["ActShape"];
type Props = {
  standing: Standing;
  closed: string | null;
  onSay: (act: string, said: string) => Promise<void>;
  onBack: () => Promise<void>;
  onEnd: (cause: string, mend: string) => Promise<void>;
  onLeave: () => void;
};

/** A hunt: the one thing to do now, large; what it may be; what was answered. */
export function HuntPanel({ standing, closed, onSay, onBack, onEnd, onLeave }: Props) {
  const [other, setOther] = useState<Act | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const show = useBench((s) => s.show);
  const act = other ?? standing.next ?? null;
  useEffect(() => {
    const spots = standing.likely.flatMap((l) =>
      l.x === null || l.y === null
        ? []
        : [{ key: l.key, x: l.x, y: l.y, state: "suspect" as const, words: l.words, chance: l.chance }],
    );
    const next =
      act && act.x !== null && act.y !== null
        ? [{ key: act.key, x: act.x, y: act.y, state: "next" as const, words: act.words }]
        : [];
    useBench.setState({ proofs: [...spots, ...next] });
  }, [standing, act]);
  const say = async (said: string) => {
    if (!act) return;
    setWrong(null);
    try {
      await onSay(act.key, said);
      setOther(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <div className="flex flex-col gap-3 p-3.5 text-[12.8px]" data-testid="hunt">
      <header className="flex items-start gap-2">
        <h2 className="min-w-0 flex-1 font-bold text-sm">{bound(standing.words)}</h2>
        <span className="figure whitespace-nowrap text-mute" title="By the table of minutes">
          {minutes(standing.minutes)}
        </span>
        <button type="button" className="btn px-1.5 py-0.5 text-xs" onClick={onLeave}>
          Leave
        </button>
      </header>
      {standing.missing.length ? (
        <p role="alert">To hunt this the layout wants {standing.missing.join(" and ")}. Step Zones has it.</p>
      ) : null}
      {standing.meanwhile && !closed && !standing.found ? (
        <p className="text-mute text-xs">{bound(standing.meanwhile)}</p>
      ) : null}
      {closed ? <p className="rounded-md bg-verd/15 px-2 py-1.5">Written up: {bound(closed)}</p> : null}
      {standing.strange && !closed ? (
        <p role="alert" className="rounded-md bg-amber/20 px-2 py-1.5">
          Nothing in the catalogue answers like this. Take back an answer that may be wrong, or look for another fault
          besides.
        </p>
      ) : null}
      {standing.found && !closed ? (
        <Ending standing={standing} found={standing.found} onEnd={onEnd} onBack={onBack} />
      ) : null}
      {act && !closed && !standing.found ? (
        <section aria-label="Do now" className="rounded-lg border-2 border-copper p-3">
          <p className="text-[15px] font-semibold leading-snug">{bound(act.words)}</p>
          {act.how ? <p className="mt-0.5">{bound(act.how)}</p> : null}
          {act.caution ? <p className="mt-1 rounded bg-amber/20 px-2 py-0.5 text-xs">{act.caution}</p> : null}
          <p className="mt-1 text-mute text-xs">
            {bound(`About ${act.minutes < 1 ? "half a minute" : minutes(act.minutes)}. `)}
            {other ? "Chosen freely." : bound(standing.why)}{" "}
            {act.track !== null && act.at !== null ? (
              <button
                type="button"
                className="act"
                onClick={() => show(null, { track: act.track ?? "", at: act.at ?? 0 }, [act.track ?? ""])}
              >
                Show
              </button>
            ) : null}
          </p>
          {act.unit ? <ReadingField unit={act.unit} onSay={say} key={act.key} /> : null}
          <div className="mt-2 grid grid-cols-2 gap-2">
            {act.answers.map(({ said, words }) => (
              <button key={said} type="button" className="btn py-2 font-semibold" onClick={() => void say(said)}>
                {words}
              </button>
            ))}
            <button type="button" className="btn py-1.5" onClick={() => void say("unsure")}>
              Not sure
            </button>
            {standing.answers.length ? (
              <button
                type="button"
                className="btn flex items-center justify-center gap-1"
                onClick={() => void onBack()}
              >
                <Undo2 size={13} aria-hidden="true" /> Take back
              </button>
            ) : null}
          </div>
          {wrong ? (
            <p role="alert" className="mt-1 text-oxide">
              {wrong}
            </p>
          ) : null}
          {standing.leaves.length && !other ? (
            <ul className="mt-1.5 text-mute text-xs">
              {standing.leaves.map((l) => (
                <li key={l}>{bound(l)}</li>
              ))}
            </ul>
          ) : null}
        </section>
      ) : null}
      {!standing.found && !closed && standing.likely.length ? (
        <section aria-label="Most likely">
          <h3 className="font-semibold">Most likely, of {standing.causes}</h3>
          <ol>
            {standing.likely.map((l) => (
              <li key={l.key} className="mt-1">
                <span className="flex gap-2">
                  <span className="min-w-0 flex-1">{bound(l.words)}</span>
                  <span className="figure">{Math.round(l.chance * 100)} %</span>
                </span>
                <div
                  className="h-1 rounded bg-oxide"
                  style={{ width: `${Math.max(l.chance * 100, 1)}%` }}
                  aria-hidden="true"
                />
              </li>
            ))}
          </ol>
        </section>
      ) : null}
      {!standing.found && !closed && standing.others.length ? (
        <details>
          <summary className="cursor-pointer text-link">Do something else</summary>
          <ul className="mt-1">
            {standing.others.map((o) => (
              <li key={o.key}>
                <button type="button" className="act py-0.5 text-left" onClick={() => setOther(o)}>
                  {bound(o.words)}
                </button>{" "}
                <span className="text-mute text-xs">{bound(minutes(o.minutes))}</span>
              </li>
            ))}
          </ul>
        </details>
      ) : null}
      {standing.answers.length ? (
        <details open={closed !== null}>
          <summary className="cursor-pointer text-link">What was done ({standing.answers.length})</summary>
          <ol className="mt-1 text-xs">
            {standing.answers.map((a, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the same may be done twice, and its place is what tells them apart
              <li key={n} className="border-line border-b py-0.5">
                {bound(a.words)}: <b>{bound(a.said)}</b>
              </li>
            ))}
          </ol>
        </details>
      ) : null}
    </div>
  );
}

function ReadingField({ unit, onSay }: { unit: string; onSay: (said: string) => Promise<void> }) {
  const [text, setText] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    field.current?.focus({ preventScroll: true });
  }, []);
  return (
    <form
      className="mt-2 flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) void onSay(text);
      }}
    >
      <input
        ref={field}
        className="field figure text-[15px]"
        aria-label="What the meter shows"
        value={text}
        placeholder={unit === "V" ? "310 mV" : "0.4 Ω, or OL"}
        autoComplete="off"
        onChange={(e) => setText(e.target.value)}
      />
      <button type="submit" className="btn btn-go">
        Keep
      </button>
    </form>
  );
}

type EndingProps = Pick<Props, "standing" | "onEnd" | "onBack"> & { found: Shape["LikelyShape"] };

function Ending({ standing, found, onEnd, onBack }: EndingProps) {
  const [cause, setCause] = useState(found.key);
  const [mend, setMend] = useState(found.mend);
  return (
    <form
      className="rounded-lg border-2 border-verd p-3"
      aria-label="Write it up"
      onSubmit={(event) => {
        event.preventDefault();
        void onEnd(cause, mend);
      }}
    >
      <p className="text-[15px] font-semibold leading-snug">Found: {bound(found.words)}</p>
      <p className="mt-1">
        {bound(found.mend)} Then try what was seen once more, before it is closed: there may be a second fault.
      </p>
      <label className="mt-2 block">
        <span className="text-[11.5px] text-mute">What it was</span>
        <select className="field" value={cause} onChange={(e) => setCause(e.target.value)}>
          {standing.likely.map((l) => (
            <option key={l.key} value={l.key}>
              {l.words}
            </option>
          ))}
          <option value="other: not in the list">something else</option>
        </select>
      </label>
      <label className="mt-1.5 block">
        <span className="text-[11.5px] text-mute">What mended it</span>
        <input className="field" value={mend} onChange={(e) => setMend(e.target.value)} />
      </label>
      <div className="mt-2 flex gap-2">
        <button type="submit" className="btn btn-go">
          It is gone: write it up
        </button>
        <button type="button" className="btn" onClick={() => void onBack()}>
          It is still there
        </button>
      </div>
    </form>
  );
}
