import { memo, useEffect, useRef } from "react";
import { lastBefore, type Trace, useEvening } from "../../store/evening";
import { Axis, type Frame } from "./Axis";
import { sheet } from "./canvas";

const LEFT = 168;
const HEIGHT = 44;

/** Amps of every source and breaker and volts of every train, on one time axis. */
export function Strips() {
  const trace = useEvening((s) => s.trace);
  const grown = useEvening((s) => s.grown);
  const running = useEvening((s) => s.running);
  if (!trace) return <p className="p-3 text-mute text-sm">Run an evening: its amps and volts draw themselves here.</p>;
  // While it is worked out, twice a second is often enough.
  const mark = running ? Math.floor(grown / 4) : grown;
  return (
    <Axis left={LEFT}>
      {(frame) => (
        <>
          {trace.opening.devices.map((d, k) => {
            const row = trace.amps[k];
            return row && (d.source || row.some((a) => a > 0.005)) ? (
              <Strip
                key={d.id}
                name={d.name}
                unit="A"
                trace={trace}
                row={row}
                mark={mark}
                frame={frame}
                line={d.trip ?? d.label}
                lineName={d.trip ? `opens at ${d.trip} A` : d.label ? `${d.label} A on the label` : ""}
                ink="--copper"
                floor={0}
              />
            ) : null;
          })}
          {trace.opening.trains.map((t, k) => {
            const row = trace.volts[k];
            return row?.some((v) => v !== null) ? (
              <Strip
                key={t.key}
                name={t.name}
                unit="V"
                trace={trace}
                row={row}
                mark={mark}
                frame={frame}
                line={null}
                lineName=""
                ink="--verd"
                floor={null}
              />
            ) : null;
          })}
        </>
      )}
    </Axis>
  );
}

type StripProps = {
  name: string;
  unit: string;
  trace: Trace;
  row: (number | null)[];
  mark: number;
  frame: Frame;
  line: number | null;
  lineName: string;
  ink: string;
  floor: number | null;
};

/** One strip: the most and the least of every pixel's seconds, and a line where something acts. */
const Strip = memo(
  function Strip({ name, unit, trace, row, frame, line, lineName, ink, floor }: StripProps) {
    const canvas = useRef<HTMLCanvasElement>(null);
    const { width, from, to } = frame;
    const a = Math.max(
      0,
      lastBefore(trace.times, (k) => trace.times[k] ?? 0, from),
    );
    const b = lastBefore(trace.times, (k) => trace.times[k] ?? 0, to) + 1;
    let low = Number.POSITIVE_INFINITY;
    let high = 0;
    for (let k = a; k < b; k++) {
      const v = row[k];
      if (v === null || v === undefined) continue;
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
    const most = high;
    if (floor !== null) low = floor;
    if (!Number.isFinite(low)) low = 0;
    if (line !== null && floor !== null && line < high * 6) high = Math.max(high, line);
    const pad = Math.max((high - low) * 0.08, unit === "V" ? 0.2 : 0.05);
    const top = high + pad;
    const bottom = floor ?? low - pad;
    useEffect(() => {
      const drawn = sheet(canvas.current, width, HEIGHT);
      if (!drawn) return;
      const { pen, ink: inkOf } = drawn;
      const y = (v: number) => HEIGHT - 4 - ((v - bottom) / (top - bottom)) * (HEIGHT - 8);
      pen.strokeStyle = inkOf("--line");
      pen.beginPath();
      pen.moveTo(LEFT, HEIGHT - 0.5);
      pen.lineTo(width, HEIGHT - 0.5);
      pen.stroke();
      if (line !== null && line <= top) {
        pen.strokeStyle = inkOf("--oxide");
        pen.setLineDash([4, 3]);
        pen.beginPath();
        pen.moveTo(LEFT, y(line));
        pen.lineTo(width - 8, y(line));
        pen.stroke();
        pen.setLineDash([]);
      }
      pen.strokeStyle = inkOf(ink);
      pen.lineWidth = 1.2;
      pen.beginPath();
      let open = false;
      let pixel = -1;
      let least = 0;
      let greatest = 0;
      const inner = width - LEFT - 8;
      for (let k = a; k < b; k++) {
        const v = row[k];
        if (v === null || v === undefined) {
          open = false;
          continue;
        }
        const x = LEFT + (((trace.times[k] ?? 0) - from) / (to - from)) * inner;
        if (x < LEFT) continue;
        if (!open) {
          pen.moveTo(x, y(v));
          open = true;
          pixel = Math.floor(x);
          least = greatest = v;
        } else if (Math.floor(x) === pixel) {
          if (v < least) pen.lineTo(x, y(v));
          if (v > greatest) pen.lineTo(x, y(v));
          least = Math.min(least, v);
          greatest = Math.max(greatest, v);
        } else {
          pen.lineTo(x, y(v));
          pixel = Math.floor(x);
          least = greatest = v;
        }
      }
      pen.stroke();
    });
    return (
      <div className="relative" style={{ height: HEIGHT }} data-strip={name}>
        <div className="absolute top-1 left-2 w-[156px] text-[11.5px] leading-tight">
          <div className="truncate font-medium" title={name}>
            {name}
          </div>
          <div className="figure text-[10.5px] text-mute">
            {unit === "A"
              ? `most ${most.toFixed(2)} A`
              : `${bottom > 0 ? (low + 0).toFixed(1) : "0"} to ${most.toFixed(1)} V`}
          </div>
          {lineName && line !== null && line <= top ? (
            <div className="truncate text-[10px] text-oxide">{lineName}</div>
          ) : null}
        </div>
        <canvas ref={canvas} className="absolute inset-0" style={{ width, height: HEIGHT }} />
      </div>
    );
  },
  (a, b) =>
    a.trace === b.trace &&
    a.mark === b.mark &&
    a.frame.width === b.frame.width &&
    a.frame.from === b.frame.from &&
    a.frame.to === b.frame.to,
);
