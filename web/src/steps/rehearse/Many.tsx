import { useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Columns } from "../../parts/Columns";
import { useAsked } from "./useAsked";
import { usePlan } from "./usePlan";

const COUNTS = [10, 30, 100, 200];

/** Many evenings with everything that may go wrong, by chance: how often what stops, and the first weakness to mend. */
export function Many() {
  const { id, revision } = useWhere();
  const found = usePlan();
  const [count, setCount] = useState(100);
  const { busy, step, answer, wrong, ask, stop } = useAsked<
    Shape["EveningsShape"],
    { done?: number; total?: number; so_far?: Shape["EveningsShape"]; evening?: Shape["PlayedEvening"] }
  >();
  if (!found) return <p className="p-3 text-mute text-sm">Make a plan first.</p>;
  // What is known when somebody stops it is kept.
  const known = answer ?? step?.so_far ?? null;
  return (
    <div className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="many">
      <p className="max-w-[900px] text-mute text-xs">
        Derailments, tools on the rails, dumb turnouts, dead joiners, stuck detectors, by seed and by rates nobody has
        measured: good to compare designs, no promise of an evening.
      </p>
      <div className="mt-2 flex items-center gap-2">
        <label className="flex items-center gap-1.5 text-xs">
          Evenings
          <select className="field w-20 py-0.5" value={count} onChange={(e) => setCount(Number(e.target.value))}>
            {COUNTS.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="btn-main"
          disabled={busy}
          onClick={() =>
            void ask(`/api/layouts/${id}/rehearse/evenings`, { id: found.id, plan: found.plan, revision, count })
          }
        >
          Play them
        </button>
        {busy ? (
          <>
            <progress className="h-1.5 w-40" value={step?.done ?? 0} max={step?.total ?? count} />
            <span role="status" className="figure text-xs">
              {step?.done ?? 0} of {count}
            </span>
            <button type="button" className="btn text-xs" onClick={stop}>
              Stop, keep these
            </button>
          </>
        ) : null}
      </div>
      {wrong ? (
        <p role="alert" className="mt-2 text-oxide">
          {wrong}
        </p>
      ) : null}
      {known ? (
        <>
          <p className="mt-3">
            {known.played} evenings played; in {known.undisturbed} of them no train stood in the dark or in a knot.
          </p>
          {known.weaknesses[0] ? (
            <p className="mt-1 font-semibold">First to mend: {known.weaknesses[0].words}</p>
          ) : null}
          <table className="mt-2 w-full max-w-[900px]">
            <Columns
              names={["What stops trains", "Evenings", "Share, 95 %", "Standing minutes an evening", "Worst seed"]}
              apart="pr-3"
            />
            <tbody>
              {known.weaknesses.map((w) => (
                <tr key={w.words} className="border-line border-b align-baseline">
                  <td className="py-1 pr-3">{w.words}</td>
                  <td className="figure pr-3">{w.evenings}</td>
                  <td className="figure whitespace-nowrap pr-3">
                    {Math.round(w.low * 100)} to {Math.round(w.high * 100)} %
                  </td>
                  <td className="figure pr-3">{w.minutes.toFixed(1)} min</td>
                  <td className="figure">{w.seed}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      ) : null}
    </div>
  );
}
