import type { Shape } from "../../api/client";
import { useZones } from "../../api/queries";
import { useBench } from "../../store/bench";

type Step = Shape["Step"];
const WIDE = 208;
const TALL = 62;
const GAP_X = 44;
const GAP_Y = 10;

/** Where every device stands on the sheet: a column for each step from the source, a row for each end. */
function arrange(steps: Step[]): { placed: Map<string, { x: number; y: number }>; width: number; height: number } {
  const placed = new Map<string, { x: number; y: number }>();
  const below = (id: string | null) => steps.filter((s) => s.above === id);
  let row = 0;
  let deepest = 0;
  const put = (step: Step, depth: number): number => {
    deepest = Math.max(deepest, depth);
    const under = below(step.device);
    const rows = under.map((u) => put(u, depth + 1));
    const y = rows.length ? ((rows[0] ?? 0) + (rows[rows.length - 1] ?? 0)) / 2 : row++;
    placed.set(step.device, { x: depth * (WIDE + GAP_X), y: y * (TALL + GAP_Y) });
    return y;
  };
  for (const root of steps.filter((s) => !s.above || !steps.some((o) => o.device === s.above))) put(root, 0);
  return { placed, width: (deepest + 1) * (WIDE + GAP_X) - GAP_X, height: row * (TALL + GAP_Y) };
}

/** The power tree on one line each: source, breaker, reverser, with amps asked, amps given, trips and what goes dark. */
export function OneLine() {
  const { data } = useZones();
  const { selected, show } = useBench();
  if (!data) return <p className="p-3 text-mute">Working it out…</p>;
  if (!data.steps.length)
    return (
      <p className="border-line border-t p-3 text-mute">No source yet. Step Track, tool Source, places the first.</p>
    );
  const { placed, width, height } = arrange(data.steps);
  return (
    <section
      className="min-h-0 overflow-auto border-line border-t bg-card p-3"
      aria-label="One-line diagram"
      data-testid="one-line"
    >
      <svg
        width={width + 8}
        height={height + 8}
        viewBox={`-4 -4 ${width + 8} ${height + 8}`}
        role="img"
        aria-label="Power from every source to every district"
      >
        {data.steps.map((s) => {
          const here = placed.get(s.device);
          const from = s.above ? placed.get(s.above) : undefined;
          if (!here || !from) return null;
          const [x0, y0, x1, y1] = [from.x + WIDE, from.y + TALL / 2, here.x, here.y + TALL / 2];
          const middle = x0 + GAP_X / 2;
          return (
            <g key={s.device} fill="none">
              <path d={`M${x0} ${y0}H${middle}V${y1}H${x1}`} stroke="var(--copper)" strokeWidth="3.4" />
              <path d={`M${x0} ${y0}H${middle}V${y1}H${x1}`} stroke="var(--card)" strokeWidth="1" />
            </g>
          );
        })}
        {data.steps.map((s) => {
          const at = placed.get(s.device);
          if (!at) return null;
          const over = (s.share ?? 0) > 1;
          const share = Math.min(s.share ?? 0, 1);
          const lines = [
            s.asked_text ? `${s.asked_text} of ${s.gives_text ?? "?"}${over ? ", too much" : ""}` : s.circuit_name,
            s.trip_text ? `trips ${s.trip_text}${s.late ? ", too late" : ""}` : `${s.dark_text} of track`,
          ];
          return (
            // biome-ignore lint/a11y/useSemanticElements: a device on a drawing
            <g
              key={s.device}
              transform={`translate(${at.x} ${at.y})`}
              role="button"
              tabIndex={0}
              className="cursor-pointer"
              aria-label={`${s.name}, ${lines.join(", ")}`}
              onClick={() => show({ kind: "device", id: s.device }, null)}
              onKeyDown={(e) => e.key === "Enter" && show({ kind: "device", id: s.device }, null)}
            >
              <title>
                {`${s.name}: if it opens, ${s.dark_text} of track goes dark${s.sections.length ? `: ${s.sections.join(", ")}` : ""}.${s.weakest_text ? ` Weakest short ${s.weakest_text}.` : ""}`}
              </title>
              <rect
                width={WIDE}
                height={TALL}
                rx={s.kind === "reverser" ? 14 : 5}
                fill="var(--paper)"
                stroke={
                  selected?.id === s.device
                    ? "var(--amber)"
                    : over || s.late || s.sure === false
                      ? "var(--oxide)"
                      : "var(--line)"
                }
                strokeWidth={selected?.id === s.device ? 3 : 1.5}
              />
              <rect width="6" height={TALL} rx="3" fill={s.ink} />
              <text x="14" y="17" fontSize="12" fontWeight="700" fill="var(--ink)">
                {s.name.length > 27 ? `${s.name.slice(0, 26)}…` : s.name}
              </text>
              {lines.map((line, k) => (
                <text
                  key={line}
                  x="14"
                  y={32 + 13 * k}
                  fontSize="10.8"
                  className="figure"
                  fill={(k === 0 && over) || (k === 1 && s.late) ? "var(--oxide)" : "var(--mute)"}
                >
                  {line}
                </text>
              ))}
              {s.share !== null ? (
                <g>
                  <rect x="14" y={TALL - 10} width={WIDE - 24} height="4" rx="2" fill="var(--board)" />
                  <rect
                    x="14"
                    y={TALL - 10}
                    width={(WIDE - 24) * share}
                    height="4"
                    rx="2"
                    fill={over ? "var(--oxide)" : "var(--verd)"}
                  />
                </g>
              ) : null}
            </g>
          );
        })}
      </svg>
    </section>
  );
}
