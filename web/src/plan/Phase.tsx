import { memo, useMemo } from "react";
import type { Answers, Shape } from "../api/client";
import { litPath, pathOf } from "./geometry";
import { aside } from "./offset";

type Carries = "A" | "B" | "none" | "clash";
const WIDEST_PX = 2.6;

/** Both rails as they are fed: A solid copper, B slate with a light core, nothing dotted grey, both at once barred oxide. */
export const Phase = memo(function Phase({
  answers,
  rails,
  lit,
  path,
  bucket,
}: {
  answers: Answers;
  rails: Shape["RailsShape"];
  lit: ReadonlySet<string>;
  /** The rails that prove a finding. */
  path: { track: string; start: number; end: number; side: string }[];
  bucket: number;
}) {
  const inks = useMemo(() => {
    const k = 2 ** (bucket / 2);
    const off = Math.max(answers.rail_gauge / 2, WIDEST_PX / k);
    const found: Record<Carries, string> = { A: "", B: "", none: "", clash: "" };
    let turns = "";
    for (const piece of rails.pieces) {
      const drawn = answers.tracks[piece.track];
      if (!drawn) continue;
      const to = Math.min(piece.end, drawn.length);
      found[piece.left as Carries] += aside(drawn, piece.start, to, -off);
      found[piece.right as Carries] += aside(drawn, piece.start, to, off);
      if (piece.turns) turns += aside(drawn, piece.start, to, 0);
    }
    return { ...found, turns };
  }, [answers, rails, bucket]);
  const proof = useMemo(() => {
    const off = Math.max(answers.rail_gauge / 2, WIDEST_PX / 2 ** (bucket / 2));
    return path
      .map((r) => {
        const drawn = answers.tracks[r.track];
        return drawn ? aside(drawn, r.start, Math.min(r.end, drawn.length), r.side === "left" ? -off : off) : "";
      })
      .join("");
  }, [answers, path, bucket]);
  const bright = litPath(answers.tracks, lit);
  const w = (n: number) => ({ "--w": n }) as never;
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-phase">
      {bright && !proof ? <path d={bright} stroke="var(--amber)" opacity="0.5" className="rail" style={w(14)} /> : null}
      <path
        d={Object.values(answers.tracks).map(pathOf).join("")}
        stroke="var(--paper)"
        className="rail"
        style={w(7)}
      />
      {proof ? (
        <path d={proof} stroke="var(--amber)" className="w" style={w(8)} strokeLinecap="round" data-testid="proof" />
      ) : null}
      {inks.turns ? <path d={inks.turns} stroke="var(--verd)" opacity="0.3" className="rail" style={w(11)} /> : null}
      <path d={inks.A} stroke="var(--copper)" className="w" style={w(2.4)} />
      <path d={inks.B} stroke="var(--slate)" className="w" style={w(2.6)} />
      <path d={inks.B} stroke="var(--paper)" className="w" style={w(0.8)} />
      <path d={inks.none} stroke="var(--dead)" className="w dots" style={w(1.6)} />
      <path d={inks.clash} stroke="var(--oxide)" className="w" style={w(3.4)} />
      <path d={inks.clash} stroke="var(--paper)" className="w bars" style={w(3.4)} />
    </g>
  );
});

/** Reversing sections inked, the ways round that still need one, and the gaps of a proposal that is looked at. */
export const Reversing = memo(function Reversing({
  answers,
  rails,
  lit,
  ghosts,
}: {
  answers: Answers;
  rails: Shape["RailsShape"];
  lit: ReadonlySet<string>;
  ghosts: { x: number; y: number }[];
}) {
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const turning = useMemo(() => {
    let path = "";
    for (const p of rails.pieces) {
      const drawn = answers.tracks[p.track];
      if (p.turns && drawn) path += aside(drawn, p.start, Math.min(p.end, drawn.length), 0);
    }
    return path;
  }, [answers, rails]);
  const open = useMemo(() => {
    const tracks = new Set(rails.conflicts.filter((c) => !c.settled).flatMap((c) => c.tracks));
    return Object.entries(answers.tracks)
      .filter(([id]) => tracks.has(id))
      .map(([, d]) => pathOf(d))
      .join("");
  }, [answers, rails]);
  const bright = litPath(answers.tracks, lit);
  const w = (n: number) => ({ "--w": n }) as never;
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-reversing">
      {bright ? <path d={bright} stroke="var(--amber)" opacity="0.6" className="rail" style={w(12)} /> : null}
      <path d={all} stroke="var(--rail)" className="rail" style={w(5)} />
      <path d={all} stroke="var(--plain)" className="rail" style={w(3.1)} />
      {turning ? <path d={turning} stroke="var(--verd)" className="rail" style={w(3.6)} /> : null}
      {open ? <path d={open} stroke="var(--oxide)" className="rail dashes" style={w(3.1)} /> : null}
      {ghosts.map((g) => (
        <g
          key={`${g.x},${g.y}`}
          style={{ transform: `translate(${g.x}px,${g.y}px) scale(var(--px))` }}
          data-testid="proposed-gap"
        >
          <circle r="9" fill="var(--card)" stroke="var(--verd)" strokeWidth="2" />
          <path d="M-2.2 -5V5M2.2 -5V5" stroke="var(--verd)" strokeWidth="1.8" />
        </g>
      ))}
    </g>
  );
});
