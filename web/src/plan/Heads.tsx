import { memo } from "react";
import type { Answers, Layout, Shape } from "../api/client";
import { along, slice } from "./geometry";
import { NearName } from "./Marks";

const place = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });
const RED = "#e0503f";
const YELLOW = "#f0c24b";
const GREEN = "#58c08a";

/** One head: a dark disc with what burns in it. Shape says it as well as colour: bar, triangle, ring, or an arm. */
export function Head({ light, r = 6.5 }: { light: string; r?: number }) {
  const k = r / 6.5;
  const arm = { level: 0, "half up": -45, up: -80 }[light];
  return (
    <g transform={`scale(${k})`}>
      <circle r="6.5" fill="#1b2327" stroke="var(--paper)" strokeWidth="1.2" />
      {light === "red" ? <rect x="-4" y="-1.7" width="8" height="3.4" rx="0.8" fill={RED} /> : null}
      {light.startsWith("yellow") ? (
        <path
          d="M0-3.9L3.9 2.9H-3.9Z"
          fill={light === "yellow" ? YELLOW : "none"}
          stroke={YELLOW}
          strokeWidth="1.4"
          strokeDasharray={light === "yellow" ? undefined : "2 1.4"}
        />
      ) : null}
      {light === "green" ? <circle r="3.3" fill={GREEN} /> : null}
      {arm !== undefined ? (
        <rect
          x="-1.4"
          y="-1.5"
          width="6.6"
          height="3"
          fill={arm === 0 ? RED : arm === -45 ? YELLOW : GREEN}
          transform={`rotate(${arm})`}
        />
      ) : null}
      {light === "unknown" ? <circle r="2" fill="none" stroke="#8d9092" strokeWidth="1.2" /> : null}
    </g>
  );
}

/** Signals beside their track, each with an arrow the way its trains run. */
export const Heads = memo(function Heads({
  signals,
  shows,
  lit,
  small,
}: {
  signals: Shape["SignalsShape"];
  shows: Shape["MomentShape"]["shows"] | undefined;
  lit: ReadonlySet<string>;
  small: boolean;
}) {
  return (
    <g data-testid="heads">
      {signals.signals.map((s) => {
        const shown = shows?.[s.id];
        const lights = shown?.lights ?? Array.from({ length: s.heads }, () => "unknown");
        const radius = s.kind === "dwarf" ? 5 : small ? 4.6 : 6.5;
        const turn = (s.degrees * Math.PI) / 180;
        const [ux, uy] = [Math.cos(turn), Math.sin(turn)];
        return (
          <g
            key={s.id}
            data-thing={`signal:${s.id}`}
            data-aspect={shown?.aspect ?? ""}
            className="cursor-pointer"
            style={place(s.x, s.y)}
          >
            <title>{`${s.name}${shown ? `: ${shown.aspect}` : ""}`}</title>
            {lit.has(s.id) ? <circle r={radius + 6} fill="none" stroke="var(--copper)" strokeWidth="2.4" /> : null}
            <path
              d="M0-3.2L5 0 0 3.2Z"
              fill="var(--ink)"
              transform={`translate(${ux * (radius + 2)} ${uy * (radius + 2)}) rotate(${s.degrees})`}
            />
            {lights.map((light, n) => (
              <g
                // biome-ignore lint/suspicious/noArrayIndexKey: heads have no name but their place
                key={n}
                transform={`translate(${-ux * n * (radius * 1.9)} ${-uy * n * (radius * 1.9)})`}
              >
                <Head light={light} r={radius} />
              </g>
            ))}
            <NearName words={s.name} />
          </g>
        );
      })}
    </g>
  );
});

/** Signals of a proposal that is looked at. */
export const GhostHeads = memo(function GhostHeads({
  heads,
}: {
  heads: { x: number; y: number; degrees: number; words: string }[];
}) {
  return (
    <g data-testid="ghost-heads">
      {heads.map((h) => (
        <g key={h.words} style={place(h.x, h.y)}>
          <title>{h.words}</title>
          <circle r="6" fill="var(--card)" stroke="var(--copper)" strokeWidth="2" />
          <path d="M-2.6-2.6L3 0-2.6 2.6Z" fill="var(--copper)" transform={`rotate(${h.degrees})`} />
        </g>
      ))}
    </g>
  );
});

/** Boards of channels and outputs where they hang. */
export const Boards = memo(function Boards({
  layout,
  lit,
  drivers,
}: {
  layout: Layout;
  lit: ReadonlySet<string>;
  drivers: boolean;
}) {
  const row = (kind: "detector" | "driver", id: string, name: string, at: { x: number; y: number }) => (
    <g key={id} data-thing={`${kind}:${id}`} className="cursor-pointer" style={place(at.x, at.y)}>
      <title>{name}</title>
      <rect
        x="-7"
        y="-5"
        width="14"
        height="10"
        rx="1.5"
        fill="var(--card)"
        stroke={lit.has(id) ? "var(--amber)" : "var(--ink)"}
        strokeWidth={lit.has(id) ? 3 : 1.5}
      />
      {kind === "detector" ? (
        <path d="M-4 2.2V-2.2M-1.3 2.2V-2.2M1.3 2.2V-2.2M4 2.2V-2.2" stroke="var(--copper)" strokeWidth="1.3" />
      ) : (
        <path d="M-4 0h8M2-2l2 2-2 2" stroke="var(--slate)" strokeWidth="1.3" fill="none" />
      )}
      <NearName words={name} />
    </g>
  );
  return (
    <g>
      {Object.entries(layout.detectors ?? {}).map(([id, d]) => row("detector", id, d.name, d.at))}
      {drivers ? Object.entries(layout.drivers ?? {}).map(([id, d]) => row("driver", id, d.name, d.at)) : null}
    </g>
  );
});

/** Trains on the plan: a band over the track they stand on, a dark nose at the front. */
export const Trains = memo(function Trains({ answers, moment }: { answers: Answers; moment: Shape["MomentShape"] }) {
  return (
    <g data-testid="trains-on">
      {moment.trains.map((t, n) => {
        const path = (moment.stands[n] ?? [])
          .map((leg) => {
            const drawn = answers.tracks[leg.track];
            return drawn ? slice(drawn, leg.start, Math.min(leg.end, drawn.length)) : "";
          })
          .join("");
        const drawn = answers.tracks[t.track];
        if (!drawn) return null;
        const [x, y] = along(drawn, t.at);
        return (
          <g key={t.name} data-train={t.name} pointerEvents="none">
            <path
              d={path}
              fill="none"
              stroke="var(--strong)"
              strokeLinecap="round"
              className="rail"
              style={{ "--w": 8 } as never}
            />
            <path
              d={path}
              fill="none"
              stroke="var(--copper)"
              strokeLinecap="round"
              className="rail"
              style={{ "--w": 3 } as never}
            />
            <g style={place(x, y)}>
              <circle r="5.5" fill="var(--strong)" stroke="var(--copper)" strokeWidth="2" />
              <NearName words={t.name} />
            </g>
          </g>
        );
      })}
    </g>
  );
});
