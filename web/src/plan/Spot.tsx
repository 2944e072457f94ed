import { useMemo } from "react";
import type { Answers, PointAnswer } from "../api/client";
import type { Look } from "../store/bench";
import type { Stand } from "./labels";
import { type SpotAt, spotSize } from "./useLabels";
import { useView } from "./view";

const at = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });
/** Looks that are about stretches of track and mark no single point. */
const NO_SPOT: Look[] = ["phase", "reversing", "zones", "blocks", "signals"];

/** The point to mark: the worst of the look, or the one picked. */
export function useSpot(
  answers: Answers | undefined,
  look: Look,
  point: PointAnswer | undefined,
  picked: boolean,
  drawing: boolean,
): SpotAt {
  return useMemo(() => {
    if (!answers || drawing || NO_SPOT.includes(look) || ((look === "track" || look === "cabs") && !picked))
      return null;
    if (!picked || !point) {
      const spot = look === "coin" ? answers.weakest : answers.worst;
      return spot ? { x: spot.x, y: spot.y, lines: [spot.text, spot.note] } : null;
    }
    const name = point.track_name;
    if (!point.live) return { x: point.x, y: point.y, lines: ["No volts here", `${name}, no way to a source`] };
    const lines: [string, string] =
      look === "coin"
        ? [`${point.coin_text} into a short`, point.ratio ? `${point.ratio.toFixed(2)} × the trip, ${name}` : name]
        : [`${point.volts_text} at the wheel`, `${point.lost_text} down, ${name}`];
    return { x: point.x, y: point.y, lines };
  }, [answers, look, point, picked, drawing]);
}

/** What stands over the plan at its top, px. */
const TOP_BAR = 52;
const EDGE = 4;
/** Words clear of the row of looks and of the edges, whatever the plan is slid to; a label knows the plan, not the window. */
function useInView(spot: { x: number; y: number }, stand: Stand | undefined, width: number, height: number) {
  const [dx, dy] = [stand?.dx ?? 14, stand?.dy ?? 10];
  const below = useView((s) => spot.y * s.k + s.y + dy < TOP_BAR && spot.y * s.k + s.y + height > 0);
  const aside = useView((s) => {
    const left = spot.x * s.k + s.x;
    if (left < 0 || left > s.width) return 0;
    return Math.round(Math.max(EDGE - left - dx, 0) - Math.max(left + dx + width - (s.width - EDGE), 0));
  });
  return [dx + aside, below ? 14 : dy] as const;
}

/** The marked point, and where the other trains stand for it. */
export function Spot({
  spot,
  look,
  point,
  stand,
}: {
  spot: NonNullable<SpotAt>;
  look: Look;
  point: PointAnswer | undefined;
  stand: Stand | undefined;
}) {
  const { width, height } = spotSize(spot.lines);
  const [dx, dy] = useInView(spot, stand, width, height);
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
      <g style={at(spot.x, spot.y)} pointerEvents="none" data-testid="spot">
        <circle r="9" fill="none" stroke="var(--oxide)" strokeWidth="2.2" />
        <circle r="3" fill="var(--oxide)" />
        <g transform={`translate(${dx} ${dy})`} data-label="spot">
          <rect width={width} height={height} rx="5" fill="var(--strong)" />
          <text x="9" y="15" fontSize="11.5" fontWeight="700" fill="var(--onstrong)">
            {spot.lines[0]}
          </text>
          <text x="9" y="28.5" fontSize="10.2" fill="var(--onstrong)" opacity="0.85">
            {spot.lines[1]}
          </text>
        </g>
      </g>
    </g>
  );
}
