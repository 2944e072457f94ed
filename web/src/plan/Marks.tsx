import { memo } from "react";
import type { Answers, Layout, PointAnswer } from "../api/client";
import type { Look } from "../store/bench";
import { along, boxOf } from "./geometry";

const at = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });

export const Boards = memo(function Boards({ boards, lit }: { boards: Layout["boards"]; lit: ReadonlySet<string> }) {
  const heights = Object.values(boards ?? {}).flatMap((b) => b.outline.map((p) => p.y));
  const middle = (Math.min(...heights) + Math.max(...heights)) / 2;
  return (
    <g>
      {Object.entries(boards ?? {}).map(([id, board]) => {
        const left = Math.min(...board.outline.map((p) => p.x));
        const ys = board.outline.map((p) => p.y);
        const low = Math.max(...ys);
        // The name stands towards the middle of the room, away from the track along the wall.
        const below = (Math.min(...ys) + low) / 2 > middle;
        return (
          <g key={id}>
            <polygon
              points={board.outline.map((p) => `${p.x},${p.y}`).join(" ")}
              fill="var(--board)"
              stroke={lit.has(id) ? "var(--amber)" : "var(--boardline)"}
              className={`w ${board.removable ? "dashes" : ""}`}
              style={{ "--w": lit.has(id) ? 3 : 1 } as never}
            />
            <text
              x="5"
              y={below ? 13 : -5}
              fontSize="10"
              fill="var(--mute)"
              className="figure"
              style={at(left, below ? Math.min(...ys) : low)}
            >
              {board.name}
            </text>
          </g>
        );
      })}
    </g>
  );
});

/** What stands below the boards and wire goes round: hatched, since it is not seen from above. */
export const Obstacles = memo(function Obstacles({
  obstacles,
  lit,
}: {
  obstacles: Layout["obstacles"];
  lit: ReadonlySet<string>;
}) {
  return (
    <g>
      <pattern id="below" width="30" height="30" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0V30" stroke="var(--mute)" strokeWidth="7" opacity="0.55" />
      </pattern>
      {Object.entries(obstacles ?? {}).map(([id, o]) => (
        <polygon
          key={id}
          data-thing={`obstacle:${id}`}
          points={o.outline.map((p) => `${p.x},${p.y}`).join(" ")}
          fill="url(#below)"
          stroke={lit.has(id) ? "var(--amber)" : "var(--mute)"}
          className="w"
          style={{ "--w": lit.has(id) ? 3 : 1 } as never}
        >
          <title>{`${o.name}, ${o.kind}`}</title>
        </polygon>
      ))}
    </g>
  );
});

/** Gaps: two short bars across the rails that are cut, so a one-rail gap shows on its own side. */
export const Gaps = memo(function Gaps({ gaps, lit }: { gaps: Answers["gaps"]; lit: ReadonlySet<string> }) {
  return (
    <g>
      {Object.entries(gaps).map(([id, g]) => {
        const [top, bottom] = g.rails === "left" ? [-7, 0] : g.rails === "right" ? [0, 7] : [-7, 7];
        return (
          <g
            key={id}
            data-thing={`gap:${id}`}
            className="cursor-pointer"
            style={{ transform: `translate(${g.x}px,${g.y}px) rotate(${g.degrees}deg) scale(var(--px))` }}
          >
            <rect x="-2.6" y={top} width="5.2" height={bottom - top} fill="var(--paper)" />
            <path
              d={`M-2.6 ${top}V${bottom}M2.6 ${top}V${bottom}`}
              stroke={lit.has(id) ? "var(--amber)" : "var(--ink)"}
              strokeWidth="1.7"
            />
          </g>
        );
      })}
    </g>
  );
});

/** A name beside a mark, shown when one comes near. */
export function NearName({ words }: { words: string }) {
  return (
    <text
      className="near"
      x="9"
      y="3.5"
      fontSize="10"
      fill="var(--ink)"
      stroke="var(--paper)"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {words}
    </text>
  );
}

const CHAR = 6.3;

/** Boosters and breakers where they stand; breakers are small until one comes near. */
export const Devices = memo(function Devices({
  devices,
  circuits,
  lit,
}: {
  devices: Layout["devices"];
  circuits: Layout["circuits"];
  lit: ReadonlySet<string>;
}) {
  return (
    <g>
      {Object.entries(devices ?? {}).map(([id, device]) => {
        if (device.board) return null; // a channel: its board is drawn
        const ink = circuits?.[device.output]?.ink ?? "var(--copper)";
        const big = device.kind === "booster" || device.kind === "station" || device.kind === "supply";
        const amps = device.trip_amps ? `${device.trip_amps} A` : device.kind;
        const width = Math.max(device.name.length * CHAR, amps.length * CHAR) + 16;
        const ring = lit.has(id) ? (
          <rect
            x={big ? -width / 2 - 3 : -8}
            y={big ? -17 : -8}
            width={big ? width + 6 : 16}
            height={big ? 34 : 16}
            fill="none"
            stroke="var(--amber)"
            strokeWidth="3"
            rx="4"
          />
        ) : null;
        return (
          <g key={id} data-thing={`device:${id}`} className="cursor-pointer" style={at(device.at.x, device.at.y)}>
            <title>{`${device.name}, ${amps}`}</title>
            {big ? (
              <rect x="-6" y="-6" width="12" height="12" rx="2" fill="var(--strong)" stroke={ink} strokeWidth="2.2" />
            ) : null}
            {big ? (
              <g className="device-words">
                <rect x={-width / 2} y="-14" width={width} height="28" rx="2.5" fill="var(--strong)" />
                <rect x={-width / 2} y="-14" width="4" height="28" fill={ink} />
                <text x={-width / 2 + 9} y="-2" fontSize="10.5" fontWeight="700" fill="var(--onstrong)">
                  {device.name}
                </text>
                <text x={-width / 2 + 9} y="9.5" fontSize="9.5" fill="var(--onstrong)" opacity="0.8">
                  {amps}
                </text>
              </g>
            ) : (
              <>
                <rect
                  x="-5.5"
                  y="-5.5"
                  width="11"
                  height="11"
                  rx={device.kind === "reverser" ? 5.5 : 2}
                  fill="var(--strong)"
                  stroke={ink}
                  strokeWidth="2.2"
                />
                {device.kind === "reverser" ? (
                  <path d="M-2.6 1.6L2.6 -1.6M2.6 1.6L-2.6 -1.6" stroke="var(--onstrong)" strokeWidth="1.3" />
                ) : (
                  <path d="M-2.4 0h4.8" stroke="var(--onstrong)" strokeWidth="1.5" />
                )}
                <NearName words={`${device.name}, ${amps}`} />
              </>
            )}
            {ring}
          </g>
        );
      })}
    </g>
  );
});

function middleOf(tracks: Answers["tracks"]) {
  const box = boxOf(Object.values(tracks).map((t) => t.points));
  return box ? { x: (box.x0 + box.x1) / 2, y: (box.y0 + box.y1) / 2 } : { x: 0, y: 0 };
}

/** One name chip per circuit that feeds track, at its first section's anchor. */
export const Names = memo(function Names({
  sections,
  circuits,
  devices,
  tracks,
}: {
  sections: Layout["sections"];
  circuits: Layout["circuits"];
  devices: Layout["devices"];
  tracks: Answers["tracks"];
}) {
  const seen = new Set<string>();
  const middle = middleOf(tracks);
  // A section behind a detector is its district's: one chip for all of them.
  const above: Record<string, string> = {};
  for (const d of Object.values(devices ?? {})) if (d.board && d.input) above[d.output] = d.input;
  return (
    <g pointerEvents="none" className="chips">
      {Object.entries(sections ?? {}).map(([id, section]) => {
        const drawn = tracks[section.track];
        const key = above[section.circuit] ?? section.circuit;
        const circuit = circuits?.[key];
        if (!drawn || !circuit || seen.has(key)) return null;
        seen.add(key);
        const [x, y] = along(drawn, section.at);
        const width = circuit.name.length * 5.9 + 22;
        return (
          <g key={id} style={at(x, y)}>
            <g transform={`translate(${x > middle.x !== y > middle.y ? -width - 8 : 9} ${y > middle.y ? -9 : 9})`}>
              <rect
                width={width}
                height="17"
                rx="8.5"
                fill="var(--card)"
                stroke={circuit.ink ?? "var(--copper)"}
                strokeWidth="1.3"
              />
              <circle cx="10" cy="8.5" r="3.2" fill={circuit.ink ?? "var(--copper)"} />
              <text x="17" y="12" fontSize="10.3" fontWeight="600" fill="var(--ink)">
                {circuit.name}
              </text>
            </g>
          </g>
        );
      })}
    </g>
  );
});

/** The marked point: the worst of the look, or the one picked; with where the other trains stand for it. */
export function Spots({
  answers,
  look,
  point,
  picked,
}: {
  answers: Answers;
  look: Look;
  point?: PointAnswer;
  picked: boolean;
}) {
  if (look === "track" && !picked) return null;
  const spot = look === "coin" ? answers.weakest : answers.worst;
  const text = (lines: [string, string], x: number, y: number, flip: boolean) => {
    const width = Math.max(lines[0].length * 7, lines[1].length * 5.7) + 18;
    return (
      <g style={at(x, y)} pointerEvents="none" data-testid="spot">
        <circle r="9" fill="none" stroke="var(--oxide)" strokeWidth="2.2" />
        <circle r="3" fill="var(--oxide)" />
        <g transform={`translate(${flip ? -width - 14 : 14} 10)`}>
          <rect width={width} height="36" rx="5" fill="var(--strong)" />
          <text x="9" y="15" fontSize="11.5" fontWeight="700" fill="var(--onstrong)">
            {lines[0]}
          </text>
          <text x="9" y="28.5" fontSize="10.2" fill="var(--onstrong)" opacity="0.85">
            {lines[1]}
          </text>
        </g>
      </g>
    );
  };
  const middle = middleOf(answers.tracks).x;
  const trains = look === "coin" ? [] : (point?.trains ?? []);
  return (
    <g>
      {trains.slice(1).map((t) => (
        <g key={`${t.name}${t.x}`} style={at(t.x, t.y)}>
          <title>{`${t.name}, ${t.amps_text}, on ${t.where}`}</title>
          <rect x="-7" y="-4" width="14" height="8" rx="3" fill="var(--card)" stroke="var(--ink)" strokeWidth="1.6" />
          <path d="M-3 0h6" stroke="var(--ink)" strokeWidth="1.6" />
        </g>
      ))}
      {picked && point
        ? text(
            point.live
              ? look === "coin"
                ? [
                    `${point.coin_text} into a short`,
                    point.ratio ? `${point.ratio.toFixed(2)} × the trip, ${point.track_name}` : point.track_name,
                  ]
                : [`${point.volts_text} at the wheel`, `${point.lost_text} down, ${point.track_name}`]
              : ["No volts here", `${point.track_name}, no way to a source`],
            point.x,
            point.y,
            point.x > middle,
          )
        : spot
          ? text([spot.text, spot.note], spot.x, spot.y, spot.x > middle)
          : null}
    </g>
  );
}
