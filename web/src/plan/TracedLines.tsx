import { type CrossingKind, isIn, useTracing } from "../store/tracing";

const CROSSES: Record<NonNullable<CrossingKind>, string> = {
  crossing: "They cross. Click: a slip.",
  slip: "A slip. Click: one passes over the other.",
  over: "One passes over the other. Click: they cross.",
};
const MARKS: Record<NonNullable<CrossingKind>, string> = {
  crossing: "M-4-4L4 4M-4 4L4-4",
  slip: "M-4-4L4 4M-4 4L4-4M-5 0H5",
  over: "M-4 0H4",
};

/** A traced picture over the plan: what will be track, what is left out with its reason, and places to look at. */
export function TracedLines() {
  const { found, flipped, crossings, flip, pass, leave, only } = useTracing();
  return (
    <g data-testid="traced">
      {[...leave.map((b) => ["leave", b] as const), ...(only ? [["only", only] as const] : [])].map(([what, b]) => (
        <rect
          key={`${what}${b.join()}`}
          x={b[0]}
          y={b[1]}
          width={b[2] - b[0]}
          height={b[3] - b[1]}
          fill={what === "leave" ? "var(--mute)" : "none"}
          fillOpacity="0.25"
          stroke="var(--slate)"
          className="w dashes"
          style={{ "--w": 1.5 } as never}
          pointerEvents="none"
        />
      ))}
      {found?.lines.map((line) => {
        const kept = isIn(line, flipped);
        const words = kept
          ? `Will be track, ${line.length_text}. Click to leave it out.`
          : `Left out: ${line.why || "by hand"}. Click to take it.`;
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list beside the plan does the same by keyboard
          <g
            key={line.number}
            data-line={line.number}
            data-in={kept}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={(e) => {
              e.stopPropagation();
              flip(line.number);
            }}
            className="cursor-pointer"
          >
            <title>{words}</title>
            <path d={line.d} fill="none" stroke="transparent" className="w" style={{ "--w": 12 } as never} />
            <path
              d={line.d}
              fill="none"
              stroke={kept ? "var(--copper)" : "var(--mute)"}
              className={kept ? "w" : "w dashes"}
              style={{ "--w": kept ? 3.2 : 1.6 } as never}
            />
          </g>
        );
      })}
      {found?.tables.map((t) => (
        <circle
          key={`${t.x},${t.y}`}
          cx={t.x}
          cy={t.y}
          r={t.radius}
          fill="none"
          stroke="var(--copper)"
          className="w"
          style={{ "--w": 2.4 } as never}
          data-traced-table=""
          pointerEvents="none"
        />
      ))}
      {found?.turnouts.map(([x, y]) => (
        <g key={`${x},${y}`} pointerEvents="none" style={{ transform: `translate(${x}px,${y}px) scale(var(--px))` }}>
          <circle r="3.4" fill="var(--ink)" stroke="var(--card)" strokeWidth="1.2" />
        </g>
      ))}
      {found?.crossings.map((c, k) => {
        const kind = crossings[k] ?? c.kind ?? "crossing";
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list beside the plan does the same by keyboard
          <g
            key={`${c.x},${c.y}`}
            className="cursor-pointer"
            data-crossing={kind}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={(e) => {
              e.stopPropagation();
              pass(k);
            }}
            style={{ transform: `translate(${c.x}px,${c.y}px) scale(var(--px))` }}
          >
            <title>{CROSSES[kind]}</title>
            <circle r="8" fill="var(--card)" fillOpacity="0.85" stroke="var(--slate)" strokeWidth="2" />
            <path d={MARKS[kind]} fill="none" stroke="var(--slate)" strokeWidth="2" />
          </g>
        );
      })}
      {found?.doubts.map((d, k) => (
        <g
          key={`${d.kind}${d.x},${d.y}`}
          pointerEvents="none"
          style={{ transform: `translate(${d.x}px,${d.y}px) scale(var(--px))` }}
        >
          <circle r="10" fill="none" stroke="var(--amber)" strokeWidth="2" />
          <text x="12" y="4" fontSize="11" fontWeight="700" fill="var(--amber)">
            {k + 1}
          </text>
        </g>
      ))}
    </g>
  );
}
