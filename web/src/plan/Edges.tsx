import { useView } from "./view";

const FOOT = 304.8;
/** Steps a person reads at a glance, mm, finest first. */
const STEPS = {
  imperial: [FOOT / 12, FOOT / 4, FOOT, 2 * FOOT, 5 * FOOT, 10 * FOOT, 20 * FOOT, 50 * FOOT, 100 * FOOT],
  metric: [10, 50, 100, 250, 500, 1000, 2000, 5000, 10_000, 20_000, 50_000],
} as const;
type Units = keyof typeof STEPS;

/** The finest step that is so many pixels long at least. */
export const stepFor = (units: Units, k: number, least: number): number =>
  STEPS[units].find((mm) => mm * k >= least) ?? (STEPS[units].at(-1) as number);

/** A distance as a person says it. */
export function said(units: Units, mm: number): string {
  if (units === "metric") return mm >= 1000 ? `${+(mm / 1000).toFixed(2)} m` : `${Math.round(mm)} mm`;
  const inches = Math.round(mm / (FOOT / 12));
  return inches % 12 ? `${inches} in` : `${inches / 12} ft`;
}

/** How long things are: a bar in the unit world at hand. */
export function ScaleBar({ units }: { units: Units }) {
  const k = useView((s) => s.k);
  const mm = stepFor(units, k, 56);
  const width = mm * k;
  return (
    <div
      className="pointer-events-none absolute right-14 bottom-3 flex flex-col items-center rounded bg-paper/85 px-1 text-[11px] text-mute"
      data-testid="scale-bar"
    >
      <span className="figure whitespace-nowrap">{said(units, mm)}</span>
      <svg width={width} height="7" aria-hidden="true" className="block">
        <path d={`M.6 0V6.4H${(width - 0.6).toFixed(1)}V0`} fill="none" stroke="var(--ink)" strokeWidth="1.2" />
      </svg>
    </div>
  );
}

/** Lines of the grid in view: offsets in pixels, with the distance from the plan's origin, mm. */
function lines(units: Units, k: number, origin: number, length: number): { px: number; mm: number }[] {
  const step = stepFor(units, k, 44);
  const first = Math.ceil(-origin / k / step);
  const found = [];
  for (let n = first; n * step * k + origin < length; n++) found.push({ px: n * step * k + origin, mm: n * step });
  return found;
}

const RULER = 16;

/** The grid behind the plan. */
export function Grid({ units, width, height }: { units: Units; width: number; height: number }) {
  const { k, x, y } = useView();
  const across = lines(units, k, x, width).map((l) => `M${l.px.toFixed(1)} 0V${height}`);
  const down = lines(units, k, y, height).map((l) => `M0 ${l.px.toFixed(1)}H${width}`);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true" data-testid="grid">
      <path d={[...across, ...down].join("")} stroke="var(--line)" strokeWidth="1" opacity="0.55" />
    </svg>
  );
}

/** Rulers at the upper and the left edge while one draws. */
export function Rulers({ units, width, height }: { units: Units; width: number; height: number }) {
  const { k, x, y } = useView();
  const top = 44;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true" data-testid="rulers">
      <rect x="0" y={top} width={RULER} height={height} fill="var(--card)" opacity="0.92" />
      <rect x="0" y={height - RULER} width={width} height={RULER} fill="var(--card)" opacity="0.92" />
      <g fill="var(--mute)" stroke="none" fontSize="9" className="figure">
        {lines(units, k, x, width)
          .filter((l) => l.px > RULER + 24)
          .map((l) => (
            <g key={l.mm}>
              <path d={`M${l.px.toFixed(1)} ${height - RULER}v5`} stroke="var(--mute)" />
              <text x={l.px + 2} y={height - 4}>
                {said(units, l.mm)}
              </text>
            </g>
          ))}
        {lines(units, k, y, height - RULER)
          .filter((l) => l.px > top + 24)
          .map((l) => (
            <g key={l.mm}>
              <path d={`M${RULER} ${l.px.toFixed(1)}h-5`} stroke="var(--mute)" />
              <text transform={`translate(9 ${l.px - 2}) rotate(-90)`}>{said(units, l.mm)}</text>
            </g>
          ))}
      </g>
    </svg>
  );
}
