import { useState } from "react";
import { Sheet } from "../parts/Sheet";
import { Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { useLayout } from "../store/layout";
import { type CardProps, Head, Remove, useSet } from "./card";

/** A board. */
export function Board({ id, layout }: CardProps) {
  const board = layout.boards?.[id];
  const draw = useLayout((s) => s.draw);
  const set = useSet(`/boards/${id}`, `Board ${board?.name}`);
  const [copying, setCopying] = useState(false);
  if (!board) return null;
  const metric = layout.brief?.units === "metric";
  const xs = board.outline.map((p) => p.x);
  const ys = board.outline.map((p) => p.y);
  const wide = Math.max(...xs) - Math.min(...xs);
  const deep = Math.max(...ys) - Math.min(...ys);
  const copy = (mirror: "no" | "left to right" | "top to bottom") => {
    void draw({ act: "copy board", board: id, dx: wide + 100, dy: 0, mirror });
    setCopying(false);
  };
  return (
    <>
      <Head title={`Board ${board.name}`}>
        {lengthText(wide, metric)} by {lengthText(deep, metric)}
      </Head>
      <div className="grid grid-cols-2 items-end gap-2">
        <Typed label="Name" kind="text" shown={board.name} onTake={(v) => set("name", v, String(v))} />
        <label className="flex items-center gap-2 pb-1 text-xs">
          <input
            type="checkbox"
            className="size-4 accent-[var(--copper)]"
            checked={board.removable ?? false}
            onChange={(e) => void set("removable", e.target.checked, e.target.checked ? "lifts out" : "fixed")}
          />
          lifts out
        </label>
        {board.removable ? (
          <Typed
            label="Travels in"
            kind="text"
            shown={board.box ?? ""}
            placeholder="Lid A"
            clearable
            onTake={(v) => set("box", v, v ? `travels in ${v}` : "travels by itself")}
          />
        ) : null}
      </div>
      <div className="mt-2 flex flex-wrap gap-x-3">
        <button type="button" className="act" onClick={() => setCopying(true)}>
          Copy with its track…
        </button>
        <Remove kind="board" id={id} words="Take the board away" />
      </div>
      {copying ? (
        <Sheet
          title={`Copy board ${board.name}`}
          lead="Track that lies wholly on it comes along with its gaps; wiring is laid anew. Mirrored, turnouts change hands."
          onClose={() => setCopying(false)}
        >
          <div className="mt-4 flex flex-wrap justify-end gap-2">
            <button type="button" className="btn-main" onClick={() => copy("no")}>
              As it is
            </button>
            <button type="button" className="btn" onClick={() => copy("left to right")}>
              Mirrored left to right
            </button>
            <button type="button" className="btn" onClick={() => copy("top to bottom")}>
              Mirrored top to bottom
            </button>
          </div>
        </Sheet>
      ) : null}
    </>
  );
}
