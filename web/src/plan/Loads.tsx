import { memo } from "react";
import type { Layout } from "../api/client";
import { NearName } from "./Marks";

/** Accessories that stand on the plan: a small square on its corner in the ink of their bus. */
export const Loads = memo(function Loads({
  loads,
  circuits,
  lit,
}: {
  loads: Layout["loads"];
  circuits: Layout["circuits"];
  lit: ReadonlySet<string>;
}) {
  return (
    <g>
      {Object.entries(loads ?? {}).map(([id, load]) =>
        load.at ? (
          <g
            key={id}
            data-thing={`load:${id}`}
            className="cursor-pointer"
            style={{ transform: `translate(${load.at.x}px,${load.at.y}px) scale(var(--px))` }}
          >
            <title>{`${load.name}, ${load.count ?? 1} × ${load.kind}`}</title>
            <path
              d="M0-5.6L5.6 0 0 5.6-5.6 0Z"
              fill="var(--card)"
              stroke={lit.has(id) ? "var(--amber)" : (circuits?.[load.circuit]?.ink ?? "var(--ink)")}
              strokeWidth={lit.has(id) ? 3 : 2}
            />
            <NearName words={load.name} />
          </g>
        ) : null,
      )}
    </g>
  );
});
