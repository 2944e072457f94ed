import type { Shape } from "../../api/client";
import { useRails } from "../../api/queries";
import { bound } from "../../parts/bound";
import { SortHeads, useSorted } from "../../parts/Sorted";
import { useBench } from "../../store/bench";

type Row = Shape["SectionRow"];
const HEADS = [
  ["name", "Section"],
  ["circuit_name", "Fed by"],
  ["role", "Kind"],
  ["length", "Track"],
  ["feeders", "Feeders"],
  ["run_text", "Gap to gap"],
  ["longest_text", "Longest train"],
] as const;
const ROLES: Record<string, string> = {
  plain: "plain",
  reversing: "reversing",
  mixed: "reversing, not cut off",
  unfed: "no feeder",
};

type Said = (row: Row | undefined) => string;
const SAYS: Record<(typeof HEADS)[number][0], Said> = {
  name: (r) => r?.name ?? "",
  circuit_name: (r) => r?.circuit_name ?? "",
  role: (r) => ROLES[r?.role ?? ""] ?? "",
  length: (r) => r?.length_text ?? "",
  feeders: (r) => String(r?.feeders ?? ""),
  run_text: (r) => r?.run_text ?? (r?.role === "reversing" ? "no through run" : ""),
  longest_text: (r) => r?.longest_text ?? "",
};
const lookOf = (key: string, r: Row) =>
  key === "role"
    ? r.role === "mixed" || r.role === "unfed"
      ? "font-semibold text-oxide"
      : ""
    : key === "circuit_name"
      ? ""
      : "figure whitespace-nowrap";

/** Every stretch between gaps: its name, what feeds it, and for reversing ones how long a train may be. */
export function SectionTable() {
  const { data } = useRails();
  const show = useBench((s) => s.show);
  const { sorted: rows, ...order } = useSorted<Row>("sections", data?.sections ?? [], "name");
  // What every row would say the same of is said once, above: the table tells what differs.
  const shared = rows.length > 2 ? HEADS.filter(([key]) => rows.every((r) => SAYS[key](r) === SAYS[key](rows[0]))) : [];
  const heads = HEADS.filter((h) => !shared.includes(h));
  return (
    <section className="min-h-0 overflow-auto border-line border-t bg-card" aria-label="Sections">
      {shared.length ? (
        <p className="px-2.5 pt-1.5 text-mute text-xs">
          The same of all {rows.length}:{" "}
          {shared.map(([key, title]) => `${title.toLowerCase()} ${bound(SAYS[key](rows[0])) || "none"}`).join(", ")}.
        </p>
      ) : null}
      <table className="w-full text-[12px]" data-testid="sections">
        <SortHeads<Row> heads={heads} {...order} />
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
              {heads.slice(1).map(([key]) => (
                <td key={key} className={`px-2.5 ${lookOf(key, r)}`}>
                  {bound(SAYS[key](r))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {data && rows.length === 0 ? <p className="p-3 text-mute">Sections come with track and gaps.</p> : null}
    </section>
  );
}
