import { useBench } from "../store/bench";

/** What a change that is looked at would put on the plan (rings) and alter there (broad broken lines). */
export function Proposed() {
  const { spots, lines } = useBench((s) => s.ghostMarks);
  if (!spots.length && !lines.length) return null;
  return (
    <g pointerEvents="none" data-testid="proposed">
      <path
        d={lines.map((l) => l.d).join("")}
        fill="none"
        stroke="var(--slate)"
        className="w dashes"
        style={{ "--w": 4 } as never}
      />
      {spots.map((p) => (
        <g key={`${p.x},${p.y}`} style={{ transform: `translate(${p.x}px,${p.y}px) scale(var(--px))` }}>
          <circle r="9" fill="var(--card)" fillOpacity="0.5" stroke="var(--slate)" strokeWidth="2.4" />
          <path d="M-4 0H4M0-4V4" stroke="var(--slate)" strokeWidth="2" />
        </g>
      ))}
    </g>
  );
}
