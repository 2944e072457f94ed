import type { Answers, Layout } from "../../api/client";
import { useBench } from "../../store/bench";
import { outlineOf } from "../showing";

const at = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });

/** Handles of what is selected: bends of a track or bus, small ones between to add a bend, corners of a board, ends of wire. */
export function Handles({ layout, answers }: { layout: Layout; answers: Answers }) {
  const { tracks } = answers;
  const selected = useBench((s) => s.selected);
  const bend = useBench((s) => s.bend);
  const outline = selected ? outlineOf(layout, selected) : undefined;
  if (selected && outline) {
    const x = outline.reduce((s, p) => s + p.x, 0) / outline.length;
    const y = outline.reduce((s, p) => s + p.y, 0) / outline.length;
    return (
      <g>
        {outline.map((p, k) => (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: a corner is its index
            key={k}
            style={at(p.x, p.y)}
            data-handle={`corner:${selected.id}:${k}:${selected.kind}`}
            className="cursor-move"
          >
            <rect x="-5" y="-5" width="10" height="10" fill="var(--card)" stroke="var(--mute)" strokeWidth="1.8" />
          </g>
        ))}
        <g style={at(x, y)} data-handle={`${selected.kind}:${selected.id}`} className="cursor-move">
          <circle r="8" fill="var(--card)" stroke="var(--mute)" strokeWidth="1.8" />
          <path d="M-4 0H4M0 -4V4" stroke="var(--mute)" strokeWidth="1.6" />
        </g>
      </g>
    );
  }
  if (selected?.kind === "run") return <RunHandles id={selected.id} path={layout.runs?.[selected.id]?.path ?? []} />;
  if (selected?.kind === "terminal" || selected?.kind === "plug") {
    const spot = (selected.kind === "terminal" ? answers.terminals : answers.plugs)[selected.id];
    return spot ? <Grip x={spot.x} y={spot.y} handle={`${selected.kind}:${selected.id}`} /> : null;
  }
  if (selected?.kind === "feeder") {
    const feeder = answers.feeders[selected.id];
    return feeder ? <Grip x={feeder.x2} y={feeder.y2} handle={`tie:${selected.id}`} /> : null;
  }
  if (selected?.kind !== "track") return null;
  const path = layout.tracks?.[selected.id]?.path ?? [];
  const corners = path.map((p) => [p.x, p.y] as const);
  let along = 0;
  let total = 0;
  for (let k = 0; k + 1 < corners.length; k++) total += Math.hypot(...delta(corners, k));
  const scale = total ? (tracks[selected.id]?.length ?? total) / total : 1;
  return (
    <g>
      {corners.slice(0, -1).map(([x, y], k) => {
        const [dx, dy] = delta(corners, k);
        const middle = (along + Math.hypot(dx, dy) / 2) * scale;
        along += Math.hypot(dx, dy);
        return (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: a leg is its index
            key={`m${k}`}
            style={at(x + dx / 2, y + dy / 2)}
            data-handle={`mid:${selected.id}:${middle.toFixed(1)}:${k}`}
            className="cursor-move"
          >
            <circle r="7" fill="transparent" />
            <circle r="3.4" fill="var(--card)" stroke="var(--copper)" strokeWidth="1.4" />
          </g>
        );
      })}
      {corners.slice(1, -1).map(([x, y], k) => {
        const here = bend?.track === selected.id && bend.index === k + 1;
        return (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: a bend is its index
            key={`b${k}`}
            style={at(x, y)}
            data-handle={`bend:${selected.id}:${k + 1}`}
            data-testid="bend"
            className="cursor-move"
          >
            <rect
              x="-5"
              y="-5"
              width="10"
              height="10"
              rx="2"
              fill={here ? "var(--copper)" : "var(--card)"}
              stroke="var(--copper)"
              strokeWidth="2"
            />
          </g>
        );
      })}
    </g>
  );
}

/** One place to take hold of. */
function Grip({ x, y, handle }: { x: number; y: number; handle: string }) {
  return (
    <g style={at(x, y)} data-handle={handle} data-testid="grip" className="cursor-move">
      <circle r="9" fill="transparent" stroke="var(--copper)" strokeWidth="2" />
    </g>
  );
}

/** The bends of a bus, and small ones between to make a new one. */
function RunHandles({ id, path }: { id: string; path: readonly { x: number; y: number }[] }) {
  return (
    <g>
      {path.slice(0, -1).map((p, k) => {
        const q = path[k + 1] ?? p;
        return (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: a leg is its index
            key={`m${k}`}
            style={at((p.x + q.x) / 2, (p.y + q.y) / 2)}
            data-handle={`run-mid:${id}:${k}`}
            className="cursor-move"
          >
            <circle r="7" fill="transparent" />
            <circle r="3.4" fill="var(--card)" stroke="var(--copper)" strokeWidth="1.4" />
          </g>
        );
      })}
      {path.map((p, k) => (
        <g
          // biome-ignore lint/suspicious/noArrayIndexKey: a bend is its index
          key={`b${k}`}
          style={at(p.x, p.y)}
          data-handle={`run-bend:${id}:${k}`}
          data-testid="run-bend"
          className="cursor-move"
        >
          <rect x="-5" y="-5" width="10" height="10" rx="2" fill="var(--card)" stroke="var(--copper)" strokeWidth="2" />
        </g>
      ))}
    </g>
  );
}

function delta(corners: readonly (readonly [number, number])[], k: number): [number, number] {
  const [a, b] = [corners[k] ?? [0, 0], corners[k + 1] ?? [0, 0]];
  return [b[0] - a[0], b[1] - a[1]];
}
