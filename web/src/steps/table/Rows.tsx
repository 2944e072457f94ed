import { ArrowDown, ArrowUp } from "lucide-react";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import type { Shape } from "../../api/client";
import { useGauges } from "../../api/queries";
import { Swatches } from "../../parts/Swatch";
import { Typed } from "../../parts/Typed";
import { useKept } from "../../parts/useKept";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

type Wire = Shape["WireShape"];
type Column = { key: keyof Wire; name: string; figure?: boolean; edit?: "text" | "gauge" | "length" };
const COLUMNS: Column[] = [
  { key: "label", name: "Label", edit: "text" },
  { key: "circuit_name", name: "Circuit" },
  { key: "colours", name: "Colours" },
  { key: "gauge", name: "Gauge", figure: true, edit: "gauge" },
  { key: "start", name: "From" },
  { key: "end", name: "To" },
  { key: "measured_text", name: "Measured", figure: true, edit: "length" },
  { key: "cut_text", name: "Cut, each", figure: true },
  { key: "held_text", name: "Up to", figure: true },
  { key: "connectors", name: "Connectors" },
];
/** Columns that print a figure are sorted by the figure behind it. */
const BEHIND: Partial<Record<keyof Wire, "mm2" | "measured" | "cut" | "held">> = {
  gauge: "mm2",
  measured_text: "measured",
  cut_text: "cut",
  held_text: "held",
};
const compare = (key: keyof Wire) => (a: Wire, b: Wire) => {
  const figure = BEHIND[key];
  if (figure) return a[figure] - b[figure];
  return String(a[key]).localeCompare(String(b[key]), undefined, { numeric: true });
};

/** Cables to signals take a tape's figure; what else they are follows from the boards they join. */
const canEdit = (wire: Wire, column?: Column) =>
  column?.edit !== undefined && (wire.kind !== "control" || (wire.thing === "signal" && column.edit === "length"));

/** The rows. Arrow keys walk the cells, Enter edits where a cell can be typed into, Escape leaves it as it was. */
export function Rows({ rows }: { rows: Wire[] }) {
  const [sort, setSort] = useKept<{ key: keyof Wire; down: boolean } | null>("wires.sort", null);
  const [editing, setEditing] = useState<string | null>(null);
  const { selected, show } = useBench();
  const body = useRef<HTMLTableSectionElement>(null);
  const sorted = useMemo(() => {
    if (!sort) return rows;
    const found = [...rows].sort(compare(sort.key));
    return sort.down ? found.reverse() : found;
  }, [rows, sort]);
  const picked = selected
    ? `${selected.kind === "run" || selected.kind === "feeder" ? selected.kind : "control"}:${selected.id}`
    : null;
  useEffect(() => {
    if (picked) body.current?.querySelector(`[data-row="${picked}"]`)?.scrollIntoView({ block: "nearest" });
  }, [picked]);

  const walk = (event: KeyboardEvent<HTMLTableCellElement>, row: number, column: number) => {
    if (event.target !== event.currentTarget) return;
    const to = {
      ArrowDown: [row + 1, column],
      ArrowUp: [row - 1, column],
      ArrowLeft: [row, column - 1],
      ArrowRight: [row, column + 1],
    }[event.key];
    if (to) {
      event.preventDefault();
      const cell = body.current?.rows[to[0] ?? 0]?.cells[to[1] ?? 0];
      cell?.focus();
    }
    const wire = sorted[row];
    if (event.key === "Enter" && wire && canEdit(wire, COLUMNS[column])) {
      event.preventDefault();
      setEditing(`${wire.kind}:${wire.id}:${COLUMNS[column]?.key}`);
    }
    if (event.key === " " && wire) {
      event.preventDefault();
      show({ kind: wire.thing, id: wire.id }, null);
    }
  };

  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <table className="w-full border-collapse text-xs">
        <thead className="sticky top-0 z-10 bg-card text-left">
          <tr>
            {COLUMNS.map((c) => (
              <th
                key={c.key}
                scope="col"
                aria-sort={sort?.key === c.key ? (sort.down ? "descending" : "ascending") : undefined}
                className="border-line border-b px-2 py-1.5 font-semibold text-[11px] text-mute"
              >
                <button
                  type="button"
                  className="flex items-center gap-1"
                  onClick={() =>
                    setSort(sort?.key === c.key ? { key: c.key, down: !sort.down } : { key: c.key, down: false })
                  }
                >
                  {c.name}
                  {sort?.key === c.key ? (
                    sort.down ? (
                      <ArrowDown size={11} aria-hidden="true" />
                    ) : (
                      <ArrowUp size={11} aria-hidden="true" />
                    )
                  ) : null}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody ref={body}>
          {sorted.map((wire, r) => {
            const key = `${wire.kind}:${wire.id}`;
            return (
              <tr
                // A turnout has a cable to its motor and one from its contact.
                key={`${key} ${wire.label}`}
                data-row={key}
                className={`border-line border-b align-baseline ${picked === key ? "bg-board" : "hover:bg-board/60"}`}
                onClick={() => show({ kind: wire.thing, id: wire.id }, null)}
              >
                {COLUMNS.map((c, k) => {
                  const cell = `${key}:${c.key}`;
                  return (
                    <td
                      key={c.key}
                      tabIndex={r === 0 && k === 0 ? 0 : -1}
                      className={`px-2 py-1 ${c.figure ? "figure whitespace-nowrap" : ""} ${canEdit(wire, c) ? "cursor-text underline decoration-line decoration-dotted underline-offset-4" : ""}`}
                      onKeyDown={(event) => walk(event, r, k)}
                      onDoubleClick={() => canEdit(wire, c) && setEditing(cell)}
                      title={canEdit(wire, c) ? "Double click or Enter to change" : undefined}
                    >
                      {editing === cell && c.edit ? (
                        <Edit wire={wire} column={c} onDone={() => setEditing(null)} />
                      ) : c.key === "colours" ? (
                        <Swatches colours={wire.colours} />
                      ) : c.key === "label" ? (
                        <b>{wire.label}</b>
                      ) : c.key === "gauge" ? (
                        `${wire.gauge}`
                      ) : c.key === "measured_text" ? (
                        `${wire.measured_text}${wire.by_tape ? " tape" : ""}`
                      ) : (
                        String(wire[c.key])
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
      {sorted.length === 0 ? <p className="p-4 text-mute text-xs">No wire fits this filter.</p> : null}
    </div>
  );
}

function Edit({ wire, column, onDone }: { wire: Wire; column: Column; onDone: () => void }) {
  const edit = useLayout((s) => s.edit);
  const units = useLayout((s) => s.state?.document.brief?.units);
  const { data } = useGauges();
  const path = `/${{ run: "runs", feeder: "feeders", control: "signals" }[wire.kind]}/${wire.id}`;
  const field = column.key === "measured_text" ? "tape" : column.key;
  const shown = column.key === "measured_text" ? (wire.by_tape ? wire.measured_text : "") : String(wire[column.key]);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keeps keys and clicks of the open cell from the row
    <div className="min-w-[92px]" onClick={(e) => e.stopPropagation()} onKeyDown={(e) => e.stopPropagation()}>
      <Typed
        label={`${column.name} of ${wire.label}`}
        hideLabel
        autoFocus
        kind={column.edit ?? "text"}
        bare={column.edit === "length" && wire.kind === "feeder" ? (units === "metric" ? "mm" : "in") : undefined}
        shown={shown}
        placeholder={column.edit === "length" ? "by tape" : undefined}
        clearable={column.edit === "length"}
        options={column.edit === "gauge" ? (units === "metric" ? data?.metric : data?.imperial) : undefined}
        onTake={(value, text) =>
          edit(
            `${wire.label}: ${column.name.toLowerCase()} ${text || "as drawn"}`,
            [{ op: "replace", path: `${path}/${field}`, value }],
            true,
          )
        }
        onDone={onDone}
      />
    </div>
  );
}
