import type { PointerEvent } from "react";
import { inkOf } from "../../parts/Swatch";
import { type Step, TALL, WIDE } from "./arrange";

type Props = {
  step: Step;
  x: number;
  y: number;
  selected: boolean;
  /** Something held over it would hang here. */
  target: boolean;
  held: boolean;
  onPress: (event: PointerEvent<SVGGElement>) => void;
  onEnter: () => void;
};

/** One device on the one-line diagram: its name, amps of amps, trip, the colours of its wires and how full it is. */
export function Box({ step: s, x, y, selected, target, held, onPress, onEnter }: Props) {
  const over = (s.share ?? 0) > 1 + 1e-9;
  const share = Math.min(s.share ?? 0, 1);
  const bad = over || s.late || s.sure === false;
  const round = s.kind === "reverser" || s.kind === "reversing switch" ? 16 : s.purpose === "accessory" ? 0 : 5;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a device on a drawing
    <g
      transform={`translate(${x} ${y})`}
      role="button"
      tabIndex={0}
      data-device={s.device}
      className={held ? "cursor-grabbing" : "cursor-pointer"}
      opacity={held ? 0.8 : 1}
      aria-label={`${s.name}, ${s.lines.join(", ")}`}
      onPointerDown={onPress}
      onKeyDown={(e) => e.key === "Enter" && onEnter()}
    >
      {/* The label says all of it; told twice it would be read twice. */}
      <g>
        <title>
          {`${s.name}${s.purpose === "track" ? `: if it opens, ${s.dark_text} of track goes dark${s.sections.length ? `: ${s.sections.join(", ")}` : ""}.` : ""}${s.trips_text ? ` Short anywhere on its own track: ${s.trips_text}.` : ""}`}
        </title>
        <rect
          width={WIDE}
          height={TALL}
          rx={round}
          fill="var(--paper)"
          stroke={target ? "var(--verd)" : selected ? "var(--amber)" : bad ? "var(--oxide)" : "var(--line)"}
          strokeWidth={selected || target ? 3 : 1.5}
        />
        <rect width="6" height={TALL} rx="3" fill={s.ink} />
        <text x="14" y="17" fontSize="12" fontWeight="700" fill="var(--ink)">
          {`${s.name.length > 26 ? `${s.name.slice(0, 25)}…` : s.name} `}
        </text>
        {s.lines.map((line, k) => (
          <text
            key={line}
            x="14"
            y={32 + 13 * k}
            fontSize="10.8"
            className="figure"
            fill={(k === 0 && over) || (k === 1 && s.late) ? "var(--oxide)" : "var(--mute)"}
          >
            {`${line} `}
          </text>
        ))}
        <g>
          {s.colours.map((colour, k) => {
            const [base = "grey", stripe] = colour.split("/");
            return (
              <g key={colour + String(k)} transform={`translate(${WIDE - 30} ${23 + 7 * k})`}>
                <rect width="22" height="4.4" rx="2" fill={inkOf(base)} stroke="var(--mute)" strokeWidth="0.6" />
                {stripe ? <path d="M5 4l2.6-3.6M13 4l2.6-3.6" stroke={inkOf(stripe)} strokeWidth="1.6" /> : null}
              </g>
            );
          })}
        </g>
        {s.share !== null && s.share !== undefined ? (
          <g>
            <rect x="14" y={TALL - 11} width={WIDE - 24} height="4" rx="2" fill="var(--board)" />
            <rect
              x="14"
              y={TALL - 11}
              width={(WIDE - 24) * share}
              height="4"
              rx="2"
              fill={over ? "var(--oxide)" : "var(--verd)"}
            />
          </g>
        ) : null}
      </g>
    </g>
  );
}
