import type { Shape } from "../../api/client";
import { useRails } from "../../api/queries";
import { SortHeads, useSorted } from "../../parts/Sorted";
import { useBench } from "../../store/bench";

type Row = Shape["SectionRow"];
const HEADS: readonly (readonly [keyof Row, string])[] = [
  ["name", "Section"],
  ["circuit_name", "Fed by"],
  ["role", "Kind"],
  ["length", "Track"],
  ["feeders", "Feeders"],
  ["run_text", "Gap to gap"],
  ["longest_text", "Longest train"],
];
const ROLES: Record<string, string> = {
  plain: "plain",
  reversing: "reversing",
  mixed: "reversing, not cut off",
  unfed: "no feeder",
};

/** Every stretch between gaps: its name, what feeds it, and for reversing ones how long a train may be. */
export function SectionTable() {
  const { data } = useRails();
  const show = useBench((s) => s.show);
  const { sorted: rows, ...order } = useSorted<Row>("sections", data?.sections ?? [], "name");
  return (
    <section className="min-h-0 overflow-auto border-line border-t bg-card" aria-label="Sections">
      <table className="w-full text-[12px]" data-testid="sections">
        <SortHeads<Row> heads={HEADS} {...order} />
        <tbody>
          {rows.map((r) => (
            <tr key={`${r.name}${r.track}${r.at}`} className="border-line border-b">
              <td className="px-2.5 py-1">
                <button
                  type="button"
                  className="act text-left"
                  onClick={() =>
                    show(
                      r.ids[0] ? { kind: "section", id: r.ids[0] } : { kind: "track", id: r.track },
                      { track: r.track, at: r.at },
                      r.tracks,
                    )
                  }
                >
                  {r.name}
                </button>
              </td>
              <td className="px-2.5">{r.circuit_name}</td>
              <td className={`px-2.5 ${r.role === "mixed" || r.role === "unfed" ? "font-semibold text-oxide" : ""}`}>
                {ROLES[r.role]}
              </td>
              <td className="figure whitespace-nowrap px-2.5">{r.length_text}</td>
              <td className="figure px-2.5">{r.feeders}</td>
              <td className="figure px-2.5">{r.run_text ?? (r.role === "reversing" ? "no through run" : "")}</td>
              <td className="figure px-2.5">{r.longest_text ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {data && rows.length === 0 ? <p className="p-3 text-mute">Sections come with track and gaps.</p> : null}
    </section>
  );
}
