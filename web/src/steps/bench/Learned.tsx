import { useEffect, useState } from "react";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { useBench, useTab } from "../../store/bench";
import { useProving } from "../../store/proving";
import { History } from "./History";
import { useLearned, useOffer, useTests } from "./queries";

const BAR = 100;

/** What all readings say together: what is likely bad, on the plan by how certain, and what to read next. */
export function Learned() {
  const { data } = useLearned();
  const { data: bench } = useTests();
  const [asked, setAsked] = useState(false);
  const { data: offer } = useOffer(asked);
  const [open, setOpen] = useState(false);
  const show = useBench((s) => s.show);
  const set = useProving((s) => s.set);
  const [, turn] = useTab([
    ["prove", ""],
    ["readings", ""],
  ]);
  useEffect(() => {
    if (!data) return;
    const read = data.judged.map((j) => ({
      key: `load:${j.place}`,
      x: j.x,
      y: j.y,
      // One that reads less than the bad one beside it foretells is not itself bad.
      state: j.sigmas < 2.25 ? ("sound" as const) : ("bad" as const),
      words: `${j.where}: ${j.read}, ${j.foretold} foretold`,
    }));
    const suspects = data.suspects.flatMap((s) =>
      s.x === null || s.y === null || s.chance < 0.05
        ? []
        : [{ key: `suspect:${s.words}`, x: s.x, y: s.y, state: "suspect" as const, words: s.words, chance: s.chance }],
    );
    useBench.setState({ proofs: [...read, ...suspects] });
  }, [data]);
  if (!data) return <p className="p-3 text-mute">Weighing the readings…</p>;
  const prove = (place: string) => {
    const key = `load:${place}`;
    if (bench?.tests.some((t) => t.key === key)) {
      set({ test: key });
      turn("prove");
    }
  };
  const shares = data.sound < 0.5 ? data.suspects.reduce((sum, s) => sum + s.chance, 0) : 0;
  return (
    <div className="p-3.5 text-[12.8px]" data-testid="learned">
      <h2 className="mb-1 font-bold text-sm">What the readings say</h2>
      <p>{bound(data.words)}</p>
      {data.suspects.length && data.sound < 0.5 ? (
        <ol className="mt-2.5 flex flex-col gap-2" aria-label="Suspects">
          {data.suspects.slice(0, 5).map((s) => (
            <li key={s.words} className="rounded-lg border border-line p-2">
              <p className="flex items-baseline gap-2">
                <b className="min-w-0 flex-1">{bound(s.words)}</b>
                <span className="figure">{Math.round(s.chance * BAR)} %</span>
              </p>
              <div className="my-1 h-1.5 rounded bg-board" aria-hidden="true">
                <div className="h-full rounded bg-oxide" style={{ width: `${Math.max(s.chance * BAR, 1)}%` }} />
              </div>
              <p className="text-mute text-xs">
                {bound(s.ohms)} too many.{s.parts.length ? ` ${s.parts.map((p) => p.words).join("; ")}.` : ""}{" "}
                {s.track !== null && s.at !== null ? (
                  <button
                    type="button"
                    className="act"
                    onClick={() => show(null, { track: s.track ?? "", at: s.at ?? 0 }, [s.track ?? ""])}
                  >
                    Show on plan
                  </button>
                ) : null}
              </p>
            </li>
          ))}
        </ol>
      ) : null}
      {shares > 1.05 ? <p className="mt-1 text-mute text-xs">More than 100 % in all: two may be bad at once.</p> : null}
      {data.next.length && data.judged.length ? (
        <>
          <h3 className="mt-3 font-semibold">Read next, for what it would decide</h3>
          <ul className="mt-1">
            {data.next.slice(0, 3).map((n) => (
              <li key={n.place} className="py-0.5">
                <button
                  type="button"
                  className="act text-left"
                  onClick={() => {
                    show(null, { track: n.track, at: n.at }, [n.track]);
                    prove(n.place);
                  }}
                >
                  {bound(n.where)}
                </button>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      {data.shared.length ? (
        <details className="mt-3 text-xs">
          <summary className="cursor-pointer text-link">What all of a kind have in common</summary>
          <ul className="mt-1 text-mute">
            {data.shared.map((s) => (
              <li key={s}>{bound(s)}</li>
            ))}
          </ul>
        </details>
      ) : null}
      <History />
      <h3 className="mt-3 font-semibold">Into the layout</h3>
      <p className="text-mute text-xs">
        Measured ohms and volts can take the place of the tables’. It is one change: Undo takes it back.
      </p>
      <button type="button" className="btn mt-1.5" onClick={() => setAsked(true)}>
        What could be taken over
      </button>
      {asked && offer ? (
        offer.mend ? (
          <>
            <ul className="mt-1.5 max-h-40 overflow-auto text-xs">
              {offer.lines.map((l) => (
                <li key={l}>{bound(l)}</li>
              ))}
            </ul>
            <button type="button" className="btn mt-1.5" onClick={() => setOpen(true)}>
              Look at the change…
            </button>
          </>
        ) : (
          <p className="mt-1.5 text-mute text-xs">Nothing yet that is surer than the tables.</p>
        )
      ) : null}
      {open && offer?.mend ? (
        <Preview
          title={`${offer.lines.length} measured values`}
          mend={offer.mend}
          onClose={() => setOpen(false)}
          onMade={() => setAsked(false)}
        />
      ) : null}
    </div>
  );
}
