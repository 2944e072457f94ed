import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Columns } from "../../parts/Columns";
import { useLayout } from "../../store/layout";
import { useAsked } from "./useAsked";
import { usePlan } from "./usePlan";

const NAMES: Record<string, string> = {
  "signals alone": "By signals alone",
  direction: "One way at a time on single lines",
  "safe moves": "Only moves that leave everybody a way on",
};
const SAYS: Record<string, string> = {
  free: "never, whatever the delays",
  knot: "yes",
  starves: "no knot, but somebody starves",
  "not settled": "not settled",
};

/** Face to face: whether trains of the plan can ever wait for each other for ever, under each rule. */
export function ProofTab() {
  const { id, revision } = useWhere();
  const found = usePlan();
  const edit = useLayout((s) => s.edit);
  const { busy, step, answer, wrong, ask, stop } = useAsked<
    Shape["ProvedShape"],
    { rule?: string; states?: number; way?: string }
  >();
  if (!found) return <p className="p-3 text-mute text-sm">Make a plan first.</p>;
  return (
    <div className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="proof">
      <p className="max-w-[900px] text-mute text-xs">
        Can trains of this plan ever wait for each other for ever? Every order in which they may come is tried, so
        delays cannot bring anything new. A timetable alone prevents nothing: somebody is late one day.
      </p>
      <div className="mt-2 flex items-center gap-2">
        <button
          type="button"
          className="btn-main"
          disabled={busy}
          onClick={() => void ask(`/api/layouts/${id}/rehearse/proof`, { id: found.id, plan: found.plan, revision })}
        >
          Prove {found.plan.name}
        </button>
        {busy ? (
          <>
            <span role="status" className="text-xs">
              {step?.way ??
                (step?.states ? `${step.states.toLocaleString("en")} standings tried` : (step?.rule ?? "…"))}
            </span>
            <button type="button" className="btn text-xs" onClick={stop}>
              Stop
            </button>
          </>
        ) : null}
      </div>
      {wrong ? (
        <p role="alert" className="mt-2 text-oxide">
          {wrong}
        </p>
      ) : null}
      {answer ? (
        <>
          <table className="mt-3 w-full max-w-[1000px]">
            <Columns names={["Rule", "A knot?", "What was found", ""]} apart="pr-3" />
            <tbody>
              {answer.rules.map((r) => (
                <tr key={r.rule} className="border-line border-b align-top">
                  <td className="w-56 py-1.5 pr-3 font-medium">{NAMES[r.rule]}</td>
                  <td
                    className={`w-44 py-1.5 pr-3 ${r.verdict === "free" ? "text-verd" : r.verdict === "knot" ? "font-semibold text-oxide" : ""}`}
                  >
                    {SAYS[r.verdict]}
                  </td>
                  <td className="py-1.5 pr-3">
                    {r.words}
                    {r.story.length ? (
                      <details className="mt-1 text-xs">
                        <summary className="cursor-pointer text-mute">The way into it</summary>
                        <ol className="mt-1 list-decimal pl-5">
                          {r.story.map((s, k) => (
                            // biome-ignore lint/suspicious/noArrayIndexKey: moves have no name but their order
                            <li key={k}>{s}</li>
                          ))}
                        </ol>
                      </details>
                    ) : null}
                  </td>
                  <td className="py-1.5 text-right">
                    {r.verdict === "free" && r.rule !== (found.plan.single_lines ?? "signals alone") ? (
                      <button
                        type="button"
                        className="btn whitespace-nowrap text-xs"
                        onClick={() =>
                          void edit(`Single lines by ${r.rule}`, [
                            { op: "add", path: `/plans/${found.id}/single_lines`, value: r.rule },
                          ])
                        }
                      >
                        Run it so
                      </button>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {answer.other_ways.length ? (
            <>
              <h3 className="mt-3 font-semibold">Another track for one train would free it</h3>
              <ul className="mt-1 grid gap-1">
                {answer.other_ways.map((w) => (
                  <li key={w.words} className="flex items-start gap-2">
                    <span className="min-w-0 flex-1">{w.words}</span>
                    <button
                      type="button"
                      className="btn whitespace-nowrap text-xs"
                      onClick={() => void edit(w.words.slice(0, 80), w.patch as never)}
                    >
                      Send it so
                    </button>
                  </li>
                ))}
              </ul>
            </>
          ) : null}
        </>
      ) : null}
    </div>
  );
}
