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
  wrong,
  ghosts,
  ghostGaps,
}: {
  answers: Answers;
  rails: Shape["RailsShape"];
  circuits: Layout["circuits"];
  lit: ReadonlySet<string>;
  /** Track where a short does not open the nearest protection first. */
  wrong: Shape["WrongTrip"][];
  /** Track as a proposal would have it, and the gaps it would cut. */
  ghosts: { track: string; start: number; end: number; ink: string }[];
  ghostGaps: { x: number; y: number }[];
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
  const proposed = useMemo(() => {
    const found: Record<string, string> = {};
    for (const g of ghosts) {
      const drawn = answers.tracks[g.track];
      if (drawn) found[g.ink] = (found[g.ink] ?? "") + aside(drawn, g.start, Math.min(g.end, drawn.length), 0);
    }
    return Object.entries(found);
  }, [answers, ghosts]);
  const misses = useMemo(
    () =>
      wrong
        .map((x) => {
          const drawn = answers.tracks[x.track];
          return drawn ? aside(drawn, x.start, Math.min(x.end, drawn.length), 0) : "";
        })
        .join(""),
    [answers, wrong],
  );
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
      {proposed.map(([ink, path]) => (
        <path key={ink} d={path} stroke={ink} className="rail" style={w(5.4)} data-proposed={ink} />
      ))}
      {misses && !proposed.length ? (
        <path d={misses} stroke="var(--oxide)" className="rail dashes" style={w(7)} data-testid="wrong-trips" />
      ) : null}
      {ghostGaps.map((g) => (
        <g key={`${g.x},${g.y}`} style={{ transform: `translate(${g.x}px,${g.y}px) scale(var(--px))` }}>
          <circle r="6.5" fill="var(--card)" stroke="var(--ink)" strokeWidth="1.5" />
          <path d="M-2-3.6v7.2M2-3.6v7.2" stroke="var(--ink)" strokeWidth="1.6" />
        </g>
      ))}
    </g>
  );
});
