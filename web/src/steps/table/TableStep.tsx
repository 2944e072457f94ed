import { Download } from "lucide-react";
import { useMemo } from "react";
import type { Shape } from "../../api/client";
import { useWires } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Segmented } from "../../parts/Segmented";
import { useKept } from "../../parts/useKept";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Rows } from "./Rows";

type Which = "all" | "run" | "feeder";

/** The wire table: a view of the plan, editable in place, with what was worked out beside what was typed. */
export function TableStep() {
  const { data } = useWires();
  const state = useLayout((s) => s.state);
  const [which, setWhich] = useKept<Which>("wires.which", "all");
  const set = useBench((s) => s.set);
  const [text, setText] = useKept("wires.text", "");
  const rows = useMemo(() => {
    const kind = (data?.rows ?? []).filter((r) => which === "all" || r.kind === which);
    const phrase = text.trim().toLowerCase();
    const holds = (r: Shape["WireShape"], part: string) => Object.values(r).join(" ").toLowerCase().includes(part);
    // The phrase as typed comes first, so that 24 AWG is a gauge; failing that, rows that hold each word somewhere.
    const exact = kind.filter((r) => holds(r, phrase));
    return exact.length ? exact : kind.filter((r) => phrase.split(/\s+/).every((w) => holds(r, w)));
  }, [data, which, text]);
  return (
    <div className="grid h-full min-h-0 grid-rows-[minmax(150px,34%)_minmax(0,1fr)]">
      <div className="relative min-h-0 border-line border-b">
        <Looks />
        <Plan />
      </div>
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_236px]">
        <section aria-label="Wire table" className="flex min-h-0 min-w-0 flex-col">
          <div className="flex flex-wrap items-center gap-2.5 border-line border-b bg-card px-3 py-2">
            <button type="button" className="btn" onClick={() => set({ step: "wire" })}>
              Back to the wire
            </button>
            <h2 className="font-bold text-sm">Wire table</h2>
            <Segmented
              label="Which wires"
              value={which}
              options={[
                ["all", "All"],
                ["run", "Runs"],
                ["feeder", "Feeders"],
              ]}
              onChange={setWhich}
            />
            <input
              className="field w-48"
              placeholder="Filter: yard, 24 AWG, T15…"
              aria-label="Filter the wire table"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <span className="text-mute text-xs">
              {rows.length} of {data?.rows.length ?? 0}
            </span>
            <span className="flex-1" />
            <a className="btn flex items-center gap-1.5" href={`/api/layouts/${state?.id}/files/wires.csv`} download>
              <Download size={14} aria-hidden="true" /> CSV
            </a>
          </div>
          {data ? <Rows rows={rows} /> : <p className="p-4 text-mute">Adding it up…</p>}
        </section>
        <Totals totals={data?.totals ?? []} />
      </div>
    </div>
  );
}

function Totals({ totals }: { totals: Shape["TotalShape"][] }) {
  const spool = totals[0]?.spool_text;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard
    <aside aria-label="Wire to buy" tabIndex={0} className="min-h-0 overflow-y-auto border-line border-l bg-card p-3">
      <h2 className="font-bold text-sm">To buy</h2>
      <p className="mb-2 text-mute text-xs">
        Cut lengths with slack, every conductor counted; whole spools of {spool ?? "wire"}.
      </p>
      <table className="w-full text-xs [&_td+td]:pl-2 [&_th+th]:pl-2">
        <thead className="text-left text-[11px] text-mute">
          <tr>
            <th className="font-medium">Wire</th>
            <th className="text-right font-medium">Length</th>
            <th className="text-right font-medium">Spools</th>
          </tr>
        </thead>
        <tbody>
          {totals.map((t) => (
            <tr key={t.gauge + t.strands + t.colour} className="border-line border-t align-baseline">
              <td className="py-0.5">
                <span className="figure">{t.gauge}</span> {t.colour}
                <span className="text-[10.5px] text-mute"> {t.strands}</span>
              </td>
              <td className="figure text-right">{bound(t.length_text)}</td>
              <td className="figure text-right">{t.spools}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </aside>
  );
}
