import { type KeyboardEvent, memo, useMemo } from "react";
import type { Answers, Shape } from "../api/client";
import { along, litPath, pathOf } from "./geometry";
import type { Label } from "./labels";
import { aside } from "./offset";

type CabsShape = Shape["CabsShape"];
const ARROW_EVERY = 900;

/** Track inked by the source that drives it as selectors lie; where a DC engine runs towards; levers to throw. */
export const Cabs = memo(function Cabs({
  answers,
  cabs,
  lit,
  ghosts,
  ghostGaps,
  onThrow,
}: {
  answers: Answers;
  cabs: CabsShape;
  lit: ReadonlySet<string>;
  ghosts: { track: string; start: number; end: number; ink: string }[];
  ghostGaps: { x: number; y: number }[];
  onThrow: (selector: Shape["SelectorShape"]) => void;
}) {
  const inked = useMemo(() => {
    const found: Record<string, string> = {};
    for (const d of cabs.driven) {
      const drawn = answers.tracks[d.track];
      const key = d.source ? d.ink : d.waits ? "waits" : "none";
      if (drawn) found[key] = (found[key] ?? "") + aside(drawn, d.start, Math.min(d.end, drawn.length), 0);
    }
    return Object.entries(found);
  }, [answers, cabs]);
  const arrows = useMemo(
    () =>
      cabs.driven.flatMap((d) => {
        const drawn = answers.tracks[d.track];
        if (!drawn || !d.moves || d.end - d.start < 250) return [];
        const count = Math.max(1, Math.floor((d.end - d.start) / ARROW_EVERY));
        return Array.from({ length: count }, (_, k) => {
          const at = d.start + ((d.end - d.start) * (k + 0.3)) / count;
          const [x, y] = along(drawn, at);
          const [ax, ay] = along(drawn, Math.max(at - 10, 0));
          const [bx, by] = along(drawn, Math.min(at + 10, drawn.length));
          const turn = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI + (d.moves === "a" ? 180 : 0);
          return { key: `${d.track}:${at.toFixed(0)}`, x, y, turn, ink: d.ink };
        });
      }),
    [answers, cabs],
  );
  const bands = cabs.stretches.flatMap((s) => {
    const drawn = answers.tracks[s.track];
    const off = s.side * Math.max(answers.rail_gauge, 12);
    return drawn ? [{ ...s, path: aside(drawn, s.start, Math.min(s.end, drawn.length), off) }] : [];
  });
  const proposed = ghosts.flatMap((g) => {
    const drawn = answers.tracks[g.track];
    return drawn
      ? [{ ink: g.ink, path: aside(drawn, g.start, Math.min(g.end, drawn.length), 0), key: `${g.track}:${g.start}` }]
      : [];
  });
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const bright = litPath(answers.tracks, lit);
  const w = (n: number) => ({ "--w": n }) as never;
  const here = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-cabs">
      {bright ? <path d={bright} stroke="var(--amber)" opacity="0.6" className="rail" style={w(12)} /> : null}
      <path d={all} stroke="var(--rail)" className="rail" style={w(6)} />
      {inked.map(([ink, path]) => (
        <path
          key={ink}
          d={path}
          stroke={ink === "none" || ink === "waits" ? "var(--paper)" : ink}
          className="rail"
          style={w(4.4)}
          data-driven={ink}
        />
      ))}
      {inked.map(([ink, path]) =>
        ink === "none" || ink === "waits" ? (
          <path
            key={`${ink}-dash`}
            d={path}
            stroke={ink === "none" ? "var(--oxide)" : "var(--dead)"}
            className="rail dashes"
            style={w(ink === "none" ? 3.6 : 3)}
          />
        ) : null,
      )}
      {bands.map((b) => (
        <g key={b.id} data-thing={`${b.kind}:${b.id}`} className="cursor-pointer">
          <title>{`${b.name}: ${b.words}`}</title>
          <path d={b.path} stroke="var(--paper)" className="w" style={w(7)} />
          <path
            d={b.path}
            stroke={b.kind === "braking" ? "var(--amber)" : "var(--verd)"}
            className="w"
            style={w(4)}
            strokeLinecap="butt"
          />
        </g>
      ))}
      {proposed.map((p) => (
        <path key={p.key} d={p.path} stroke={p.ink} className="rail" style={w(6.4)} data-proposed={p.ink} />
      ))}
      {ghostGaps.map((g) => (
        <g key={`${g.x},${g.y}`} style={here(g.x, g.y)}>
          <circle r="6.5" fill="var(--card)" stroke="var(--ink)" strokeWidth="1.5" />
          <path d="M-2-3.6v7.2M2-3.6v7.2" stroke="var(--ink)" strokeWidth="1.6" />
        </g>
      ))}
      {proposed.length
        ? null
        : arrows.map((a) => (
            <g key={a.key} style={here(a.x, a.y)}>
              <path
                d="M-4-4.2L4.6 0L-4 4.2Z"
                transform={`rotate(${a.turn.toFixed(0)})`}
                fill="var(--card)"
                stroke={a.ink}
                strokeWidth="1.4"
              />
            </g>
          ))}
      {[...cabs.meetings, ...cabs.bare_gaps].map((m) => (
        <g key={`${m.track}:${m.at}`} style={here(m.x, m.y)} data-testid={m.grave ? "bare-gap" : "meeting"}>
          <title>{m.words}</title>
          <path
            d="M0-7L7 0L0 7L-7 0Z"
            fill={m.grave ? "var(--oxide)" : "var(--card)"}
            stroke={m.grave ? "var(--card)" : "var(--ink)"}
            strokeWidth="1.4"
          />
        </g>
      ))}
      {cabs.selectors.map((s) =>
        s.x === null || s.x === undefined || s.y === null || s.y === undefined || s.lever ? null : (
          <Lever key={s.device} selector={s} style={here(s.x, s.y)} onThrow={onThrow} />
        ),
      )}
    </g>
  );
});

const leverWide = (ways: number) => 10 + 9 * ways;

/** The places that levers take, so that no name lies on one. */
export function useLeverLabels(cabs: CabsShape | undefined): Label[] {
  return useMemo(
    () =>
      (cabs?.selectors ?? []).flatMap((s) => {
        if (s.lever || typeof s.x !== "number" || typeof s.y !== "number") return [];
        const width = leverWide(s.ways.length) + 4;
        return [
          {
            key: `lever:${s.device}`,
            width,
            height: 22,
            weight: 12,
            stands: [{ x: s.x, y: s.y, dx: -width / 2, dy: -11 }],
          },
        ];
      }),
    [cabs],
  );
}

/** A lever on the block it works: a tick for each way, the one it lies at filled. */
function Lever({
  selector: s,
  style,
  onThrow,
}: {
  selector: Shape["SelectorShape"];
  style: React.CSSProperties;
  onThrow: (selector: Shape["SelectorShape"]) => void;
}) {
  const lies = s.ways.find((way) => way.circuit === s.lies);
  const wide = leverWide(s.ways.length);
  const words = `${s.name}: ${lies ? lies.name : "off"}. Press to throw it on.`;
  const key = (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    onThrow(s);
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a lever on a drawing
    <g
      style={style}
      role="button"
      tabIndex={0}
      aria-label={words}
      className="cursor-pointer"
      data-lever={s.device}
      data-lies={s.lies ?? "off"}
      onClick={(event) => {
        event.stopPropagation();
        onThrow(s);
      }}
      onKeyDown={key}
    >
      <title>{words}</title>
      <rect
        x={-wide / 2}
        y="-9"
        width={wide}
        height="18"
        rx="4"
        fill="var(--card)"
        stroke="var(--ink)"
        strokeWidth="1.3"
      />
      {s.ways.map((way, k) => {
        const x = -wide / 2 + 9.5 + 9 * k;
        const on = way.circuit === s.lies;
        return (
          <rect
            key={way.circuit}
            x={x - 3.2}
            y={on ? -6 : -2.2}
            width="6.4"
            height={on ? 12 : 4.4}
            rx="1.6"
            fill={on ? way.ink : "var(--board)"}
            stroke={way.ink}
            strokeWidth="1.2"
          />
        );
      })}
    </g>
  );
}
