import { memo } from "react";
import type { Answers, Layout } from "../api/client";

type Props = { nodes: Answers["nodes"]; layout: Layout; lit: ReadonlySet<string>; drawing: boolean; far: boolean };

/** Where tracks meet. A turnout shows which way it lies; open ends and joints only while one draws. */
export const Nodes = memo(function Nodes({ nodes, layout, lit, drawing, far }: Props) {
  return (
    <g>
      {Object.entries(nodes).map(([id, n]) => {
        const node = layout.nodes?.[id];
        const here = { transform: `translate(${n.x}px,${n.y}px) scale(var(--px))` };
        const ends = Object.keys(n.leaves).length;
        const ring = lit.has(id) ? <circle r="10" fill="none" stroke="var(--amber)" strokeWidth="3" /> : null;
        if (n.kind === "turntable" || n.kind === "traverser") {
          const size = node?.diameter ?? 300;
          const common = { fill: "var(--board)", stroke: lit.has(id) ? "var(--amber)" : "var(--rail)" };
          return (
            <g key={id} data-thing={`node:${id}`} className="cursor-pointer">
              {n.kind === "turntable" ? (
                <>
                  <circle cx={n.x} cy={n.y} r={size / 2} {...common} className="w" style={{ "--w": 1.6 } as never} />
                  <path
                    d={`M${n.x - size / 2} ${n.y}h${size}`}
                    transform={n.lies ? `rotate(${n.leaves[n.lies] ?? 0} ${n.x} ${n.y})` : undefined}
                    stroke="var(--plain)"
                    className="w"
                    style={{ "--w": 2.4 } as never}
                  />
                </>
              ) : (
                <rect
                  x={n.x - size / 2}
                  y={n.y - size / 3}
                  width={size}
                  height={(size * 2) / 3}
                  transform={`rotate(${node?.angle ?? 0} ${n.x} ${n.y})`}
                  {...common}
                  className="w"
                  style={{ "--w": 1.6 } as never}
                />
              )}
            </g>
          );
        }
        if (n.ways.length && far && !lit.has(id)) return null;
        if (n.ways.length) {
          const set = n.leaves[n.lies];
          const routing = node?.frog === "routing";
          return (
            <g key={id} data-thing={`node:${id}`} data-lies={n.lies} className="cursor-pointer" style={here}>
              <title>{`${node?.name ?? id}, ${n.kind}, set ${n.lies}${routing ? ", routes power" : ""}`}</title>
              {ring}
              {far ? null : (
                <>
                  <circle r="9" fill="transparent" />
                  <rect
                    x="-3.4"
                    y="-3.4"
                    width="6.8"
                    height="6.8"
                    transform="rotate(45)"
                    fill={routing ? "var(--copper)" : "var(--card)"}
                    stroke="var(--ink)"
                    strokeWidth="1.3"
                  />
                  {set !== undefined ? (
                    <path d="M3.5 0H14" stroke="var(--ink)" strokeWidth="2" transform={`rotate(${set})`} />
                  ) : null}
                </>
              )}
            </g>
          );
        }
        if (n.kind === "crossing" || n.kind === "slip")
          return (
            <g key={id} data-thing={`node:${id}`} className="cursor-pointer" style={here}>
              {ring}
              {far ? null : (
                <path
                  d={n.kind === "slip" ? "M-4 -4L4 4M4 -4L-4 4M-5 0H5" : "M-4 -4L4 4M4 -4L-4 4"}
                  stroke="var(--ink)"
                  strokeWidth="1.8"
                />
              )}
            </g>
          );
        if (far && !lit.has(id)) return null;
        if (n.kind === "bumper")
          return (
            <g key={id} data-thing={`node:${id}`} className="cursor-pointer" style={here}>
              {ring}
              <path
                d="M0 -5V5"
                stroke="var(--ink)"
                strokeWidth="3"
                transform={`rotate(${Object.values(n.leaves)[0] ?? 0})`}
              />
            </g>
          );
        if (far ? !lit.has(id) : !drawing && !lit.has(id)) return null;
        return (
          <g key={id} data-thing={`node:${id}`} className="cursor-pointer" style={here}>
            {ring}
            <circle
              r={ends < 2 ? 4.2 : 2.4}
              fill={ends < 2 ? "var(--card)" : "var(--rail)"}
              stroke={ends < 2 ? "var(--copper)" : "none"}
              strokeWidth="1.8"
            />
          </g>
        );
      })}
    </g>
  );
});
