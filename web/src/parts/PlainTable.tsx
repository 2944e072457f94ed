import { bound } from "./bound";
import { inkOf } from "./Swatch";

/** A table of the book on the screen: wires in their inks, figures bound to their units. */
export function PlainTable({ columns, rows, kinds }: { columns: string[]; rows: string[][]; kinds?: string[] }) {
  return (
    <table className="w-full">
      <thead className="text-left text-[11px] text-mute">
        <tr>
          {columns.map((c) => (
            <th key={c} className="border-line border-b pr-1.5 font-medium">
              {c}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.join("|")} className="border-line border-b align-top">
            {r.map((cell, k) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: cells have no name but their column
              <td key={k} className="pr-1.5">
                {kinds?.[k] === "colours" && cell ? <Wires named={cell} /> : bound(cell)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Wires({ named }: { named: string }) {
  return (
    <span className="flex flex-wrap items-center gap-x-1.5">
      {named.split(" + ").map((wire) => (
        <span key={wire} className="flex items-center gap-1">
          <i
            aria-hidden="true"
            className="block h-1.5 w-4 rounded-sm border border-line"
            style={{ background: inkOf(wire.split("/")[0] ?? wire) }}
          />
          {wire}
        </span>
      ))}
    </span>
  );
}
