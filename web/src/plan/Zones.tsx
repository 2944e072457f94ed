import { memo, useMemo } from "react";
import type { Answers, Layout, Shape } from "../api/client";
import { litPath, pathOf } from "./geometry";
import { aside } from "./offset";

/** Track inked by the district it is meant for; what nobody gave to a district is broken grey. */
export const Zones = memo(function Zones({
  answers,
  rails,
  circuits,
  lit,
}: {
  answers: Answers;
  rails: Shape["RailsShape"];
  circuits: Layout["circuits"];
  lit: ReadonlySet<string>;
}) {
  const inked = useMemo(() => {
    const found: Record<string, string> = {};
    for (const p of rails.pieces) {
      const drawn = answers.tracks[p.track];
      if (!drawn) continue;
      const key = p.circuit ?? "";
      found[key] = (found[key] ?? "") + aside(drawn, p.start, Math.min(p.end, drawn.length), 0);
    }
    return Object.entries(found);
  }, [answers, rails]);
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const bright = litPath(answers.tracks, lit);
  const w = (n: number) => ({ "--w": n }) as never;
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-zones">
      {bright ? <path d={bright} stroke="var(--amber)" opacity="0.6" className="rail" style={w(12)} /> : null}
      <path d={all} stroke="var(--rail)" className="rail" style={w(5.4)} />
      {inked.map(([circuit, path]) => (
        <path
          key={circuit}
          d={path}
          stroke={circuit ? (circuits?.[circuit]?.ink ?? "var(--copper)") : "var(--paper)"}
          className="rail"
          style={w(3.8)}
          data-district={circuit || "none"}
        />
      ))}
      {inked.some(([c]) => !c) ? (
        <path d={inked.find(([c]) => !c)?.[1]} stroke="var(--dead)" className="rail dashes" style={w(3.1)} />
      ) : null}
    </g>
  );
});
