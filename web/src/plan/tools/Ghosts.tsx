import { toPath } from "./arc";
import type { Ghost } from "./kinds";

const TONES = { copper: "var(--copper)", board: "var(--mute)", bad: "var(--oxide)" };

/** What a tool would draw, with its read-outs. */
export function Ghosts({ ghosts }: { ghosts: Ghost[] }) {
  return (
    <g pointerEvents="none" data-testid="ghosts">
      {ghosts.map((g, k) => {
        const key = `${g.kind}${k}`;
        if (g.kind === "line")
          return (
            <path
              key={key}
              d={toPath(g.points)}
              fill="none"
              stroke={TONES[g.tone ?? "copper"]}
              className="w"
              style={{ "--w": 2.6 } as never}
              strokeLinejoin="round"
            />
          );
        const at = { transform: `translate(${g.x}px,${g.y}px) scale(var(--px))` };
        if (g.kind === "dot")
          return (
            <g key={key} style={at}>
              {g.caught ? <circle r="10" fill="none" stroke="var(--verd)" strokeWidth="2.2" /> : null}
              <circle r="3.4" fill={g.caught ? "var(--verd)" : "var(--copper)"} />
            </g>
          );
        const width = Math.max(...g.lines.map((l) => l.length)) * 6.4 + 14;
        return (
          <g key={key} style={at}>
            <g transform="translate(16 -34)">
              <rect width={width} height={g.lines.length * 14 + 8} rx="5" fill="var(--strong)" />
              {g.lines.map((line, n) => (
                <text key={line} x="7" y={15 + 14 * n} fontSize="11" fill="var(--onstrong)" className="figure">
                  {line}
                </text>
              ))}
            </g>
          </g>
        );
      })}
    </g>
  );
}
