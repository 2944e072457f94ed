import { memo } from "react";
import type { Answers, Layout } from "../api/client";
import { chipSize, deviceSize, districtChips, isBig, type Placed, secondLine } from "./useLabels";

const at = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });

export const Boards = memo(function Boards({ boards, lit }: { boards: Layout["boards"]; lit: ReadonlySet<string> }) {
  return (
    <g>
      {Object.entries(boards ?? {}).map(([id, board]) => {
        return (
          <polygon
            key={id}
            points={board.outline.map((p) => `${p.x},${p.y}`).join(" ")}
            fill="var(--board)"
            stroke={lit.has(id) ? "var(--amber)" : "var(--boardline)"}
            className={`w ${board.removable ? "dashes" : ""}`}
            style={{ "--w": lit.has(id) ? 3 : 1 } as never}
          />
        );
      })}
    </g>
  );
});

/** The names of the boards, over the copper so that they can be read. */
export const BoardNames = memo(function BoardNames({ boards, labels }: { boards: Layout["boards"]; labels: Placed }) {
  return (
    <g pointerEvents="none" fontSize="10" fill="var(--mute)" className="figure">
      {Object.entries(boards ?? {}).map(([id, board]) => {
        const stand = labels.get(`board:${id}`);
        return stand ? (
          <text
            key={id}
            x={stand.dx}
            y={stand.dy + 10}
            stroke="var(--board)"
            strokeWidth="3"
            paintOrder="stroke"
            data-label={`board:${id}`}
            style={at(stand.x, stand.y)}
          >
            {board.name}
          </text>
        ) : null;
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

/** Boosters and breakers where they stand; breakers are small until one comes near. */
export const Devices = memo(function Devices({
  devices,
  circuits,
  lit,
  labels,
}: {
  devices: Layout["devices"];
  circuits: Layout["circuits"];
  lit: ReadonlySet<string>;
  labels: Placed;
}) {
  return (
    <g>
      {Object.entries(devices ?? {}).map(([id, device]) => {
        if (device.board || (device.kind === "selector" && device.panel)) return null; // its board or panel is drawn
        const ink = circuits?.[device.output]?.ink ?? "var(--copper)";
        const big = isBig(device.kind);
        const amps = secondLine(device);
        const { width } = deviceSize(device.name, amps);
        const stand = labels.get(`device:${id}`);
        const [dx, dy] = [stand?.dx ?? -width / 2, stand?.dy ?? -14];
        const ring = lit.has(id) ? (
          <rect
            x={big && stand ? dx - 3 : -8}
            y={big && stand ? dy - 3 : -8}
            width={big && stand ? width + 6 : 16}
            height={big && stand ? 34 : 16}
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
            {big && stand ? (
              <g className="device-words" data-label={`device:${id}`}>
                <rect x={dx} y={dy} width={width} height="28" rx="2.5" fill="var(--strong)" />
                <rect x={dx} y={dy} width="4" height="28" fill={ink} />
                <text x={dx + 9} y={dy + 12} fontSize="10.5" fontWeight="700" fill="var(--onstrong)">
                  {device.name}
                </text>
                <text x={dx + 9} y={dy + 23.5} fontSize="9.5" fill="var(--onstrong)" opacity="0.8">
                  {amps}
                </text>
              </g>
            ) : big ? null : (
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

/** One name chip per circuit that feeds track, beside its first section's anchor. */
/** Where people stand at a control panel. */
export const PanelMarks = memo(function PanelMarks({ panels, labels }: { panels: Layout["panels"]; labels: Placed }) {
  return (
    <g pointerEvents="none">
      {Object.entries(panels ?? {}).map(([id, panel]) => {
        const stand = labels.get(`panel:${id}`);
        const { width } = chipSize(panel.name);
        return (
          <g key={id} style={at(panel.at.x, panel.at.y)}>
            <path d="M-9 4.5L-6-4.5H6L9 4.5Z" fill="var(--card)" stroke="var(--ink)" strokeWidth="1.4" />
            <path d="M-3.5-1.5v3M0-1.5v3M3.5-1.5v3" stroke="var(--ink)" strokeWidth="1.3" />
            {stand ? (
              <text
                x={stand.dx + width / 2}
                y={stand.dy + 12}
                fontSize="10.5"
                fontWeight="600"
                textAnchor="middle"
                fill="var(--ink)"
                data-label={`panel:${id}`}
              >
                {panel.name}
              </text>
            ) : null}
          </g>
        );
      })}
    </g>
  );
});

export const Names = memo(function Names({
  layout,
  tracks,
  labels,
}: {
  layout: Layout;
  tracks: Answers["tracks"];
  labels: Placed;
}) {
  return (
    <g pointerEvents="none" className="chips">
      {districtChips(layout, tracks).map((c) => {
        const stand = labels.get(`chip:${c.id}`);
        if (!stand) return null;
        const [x, y] = [stand.dx + (stand.dx < 0 ? c.width : 0), stand.dy + 8.5];
        return (
          <g key={c.id} style={at(stand.x, stand.y)}>
            <path d={`M0 0L${x} ${y}`} stroke={c.ink} strokeWidth="1" />
            <g transform={`translate(${stand.dx} ${stand.dy})`} data-label={`chip:${c.id}`}>
              <rect width={c.width} height="17" rx="8.5" fill="var(--card)" stroke={c.ink} strokeWidth="1.3" />
              <circle cx="10" cy="8.5" r="3.2" fill={c.ink} />
              <text x="17" y="12" fontSize="10.3" fontWeight="600" fill="var(--ink)">
                {c.name}
              </text>
            </g>
          </g>
        );
      })}
    </g>
  );
});
