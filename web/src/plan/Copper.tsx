import { memo } from "react";
import type { Answers, Layout } from "../api/client";
import { pathOf } from "./geometry";

type Props = {
  runs: Layout["runs"];
  drawn: Answers["runs"];
  copper: Answers["copper"];
  feeders: Answers["feeders"];
  plugs: Answers["plugs"];
  terminals: Answers["terminals"];
  lit: ReadonlySet<string>;
};
const widthOf = (mm2: number) => Math.min(1.6 + 0.9 * Math.sqrt(mm2), 4.4);

/** Runs as two conductors with a light core, heavier wire drawn heavier; feeders, terminals and plugs. */
export const Copper = memo(function Copper({ runs, drawn: paths, copper, feeders, plugs, terminals, lit }: Props) {
  return (
    <g fill="none" strokeLinecap="round" strokeLinejoin="round">
      {Object.entries(feeders).map(([id, f]) => (
        <g key={id} data-thing={`feeder:${id}`} className="cursor-pointer">
          <path
            d={`M${f.x1} ${f.y1}L${f.x2} ${f.y2}`}
            stroke="transparent"
            className="w"
            style={{ "--w": 8 } as never}
          />
          <path
            d={`M${f.x1} ${f.y1}L${f.x2} ${f.y2}`}
            stroke="var(--copper)"
            className="w"
            style={{ "--w": lit.has(id) ? 3.4 : 1.1 } as never}
          />
        </g>
      ))}
      {Object.entries(paths).map(([id, drawn]) => {
        const path = pathOf(drawn);
        const run = runs?.[id];
        const width = widthOf(copper[id] ?? 1);
        return (
          <g key={id} data-thing={`run:${id}`} className="cursor-pointer">
            <path d={path} stroke="transparent" className="w" style={{ "--w": 12 } as never} />
            {lit.has(id) ? (
              <path d={path} stroke="var(--amber)" className="w" opacity="0.55" style={{ "--w": width + 7 } as never} />
            ) : null}
            <path d={path} stroke="var(--copper)" className="w" style={{ "--w": width } as never} />
            <path
              d={path}
              stroke="var(--coppercore)"
              className="w"
              style={{ "--w": run?.make === "apart" ? width * 0.62 : width * 0.32 } as never}
            />
          </g>
        );
      })}
      {Object.entries(plugs).map(([id, { x, y }]) => (
        <g key={id} data-thing={`plug:${id}`} style={{ transform: `translate(${x}px,${y}px) scale(var(--px))` }}>
          <circle r="4" fill="var(--paper)" stroke="var(--link)" strokeWidth="1.4" />
          <path d="M-2 0h4" stroke="var(--link)" strokeWidth="1.4" />
        </g>
      ))}
      {Object.entries(terminals).map(([id, { x, y }]) => (
        <rect
          key={id}
          data-thing={`terminal:${id}`}
          className="cursor-pointer"
          x="-3"
          y="-3"
          width="6"
          height="6"
          fill={lit.has(id) ? "var(--amber)" : "var(--paper)"}
          stroke="var(--link)"
          strokeWidth="1.4"
          style={{ transform: `translate(${x}px,${y}px) scale(var(--px))` }}
        />
      ))}
    </g>
  );
});
