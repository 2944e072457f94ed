import type { Layout } from "../api/client";

/** The picture one draws over, dimmed, and the two places whose distance is being told. */
export function Backdrop({ layout, measure }: { layout: Layout; measure: { x: number; y: number }[] }) {
  const b = layout.backdrop;
  return (
    <g pointerEvents="none">
      {b ? (
        <image
          href={`/api/pictures/${b.picture}`}
          x={b.x}
          y={b.y}
          width={b.width * (b.mm_per_pixel ?? 10)}
          height={b.height * (b.mm_per_pixel ?? 10)}
          opacity={1 - (b.dim ?? 0.5)}
          preserveAspectRatio="none"
          data-testid="backdrop"
        />
      ) : null}
      {measure.length === 2 ? (
        <path
          d={`M${measure[0]?.x} ${measure[0]?.y}L${measure[1]?.x} ${measure[1]?.y}`}
          stroke="var(--slate)"
          className="w dashes"
          style={{ "--w": 2 } as never}
        />
      ) : null}
      {measure.map((p, k) => (
        <g key={`${p.x},${p.y}`} style={{ transform: `translate(${p.x}px,${p.y}px) scale(var(--px))` }}>
          <circle r="6" fill="none" stroke="var(--slate)" strokeWidth="2" />
          <text x="9" y="4" fontSize="11" fontWeight="700" fill="var(--slate)">
            {k + 1}
          </text>
        </g>
      ))}
    </g>
  );
}
