import { useEffect, useMemo, useRef, useState } from "react";
import { useAnswers, useDetection } from "../../api/queries";
import { type Trace, under, useEvening, whereIs } from "../../store/evening";
import { Axis, type Frame } from "./Axis";
import { sheet } from "./canvas";
import { trackName } from "./usePlan";

const LEFT = 168;
const INKS = ["--copper", "--slate", "--verd", "--oxide", "--amber", "--ink"];
const DASHES = [[], [6, 3], [2, 2], [8, 2, 2, 2]];
const HEIGHT = 320;

type Row = { track: string; from: number; to: number; y: number; forward: boolean };

/** The tracks in the order one train first runs over them, as one line from top to bottom. */
function rowsOf(trace: Trace, train: string, lengths: (track: string) => number): Row[] {
  const found: Row[] = [];
  const seen = new Set<string>();
  let y = 0;
  for (const epoch of trace.courses[train]?.epochs ?? []) {
    for (const [track, start, finish] of epoch.spans) {
      if (seen.has(track)) continue;
      seen.add(track);
      const length = lengths(track);
      found.push({ track, from: 0, to: length, y, forward: finish >= start });
      y += length;
    }
    if (found.length > 60) break;
  }
  return found;
}

/** Distance against time: the line of one train from top to bottom, where every train is on it, and what is lit. */
export function StringLine() {
  const trace = useEvening((s) => s.trace);
  const grown = useEvening((s) => s.grown);
  const running = useEvening((s) => s.running);
  const [chosen, setChosen] = useState("");
  const { data: answers } = useAnswers();
  const { data: detection } = useDetection(true);
  const mark = running ? Math.floor(grown / 10) : grown;
  const moving = trace?.opening.trains.filter((t) => t.by !== "parked") ?? [];
  const train = moving.some((t) => t.key === chosen) ? chosen : (moving[0]?.key ?? "");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the trace grows in place
  const rows = useMemo(
    () => (trace && answers ? rowsOf(trace, train, (t) => answers.tracks[t]?.length ?? 0) : []),
    [trace, mark, train, answers],
  );
  if (!trace) return <p className="p-3 text-mute text-sm">Run an evening: where every train was when stands here.</p>;
  return (
    <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex items-center gap-3 px-3 py-1 text-xs">
        <label className="flex items-center gap-1.5">
          Along the way of
          <select className="field w-44 py-0.5" value={train} onChange={(e) => setChosen(e.target.value)}>
            {moving.map((t) => (
              <option key={t.key} value={t.key}>
                {t.name}
              </option>
            ))}
          </select>
        </label>
        <ul className="flex min-w-0 flex-wrap gap-x-3">
          {moving.map((t, k) => (
            <li key={t.key} className="flex items-center gap-1">
              <svg width="22" height="6" aria-hidden="true">
                <path
                  d="M0 3H22"
                  stroke={`var(${INKS[k % INKS.length]})`}
                  strokeWidth="2"
                  strokeDasharray={DASHES[Math.floor(k / INKS.length) % DASHES.length]?.join(" ")}
                />
              </svg>
              {t.name}
            </li>
          ))}
        </ul>
      </div>
      <Axis left={LEFT}>
        {(frame) => <Lines trace={trace} rows={rows} frame={frame} mark={mark} pieces={detection?.pieces ?? []} />}
      </Axis>
    </div>
  );
}

function Lines({
  trace,
  rows,
  frame,
  mark,
  pieces,
}: {
  trace: Trace;
  rows: Row[];
  frame: Frame;
  mark: number;
  pieces: { track: string; start: number; end: number; section: number }[];
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width, from, to } = frame;
  const whole = rows.reduce((sum, r) => sum + r.to, 0) || 1;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the trace grows in place, the mark says when
  useEffect(() => {
    const drawn = sheet(canvas.current, width, HEIGHT);
    if (!drawn) return;
    const { pen, ink } = drawn;
    const inner = width - LEFT - 8;
    const x = (t: number) => LEFT + ((t - from) / (to - from)) * inner;
    const row = new Map(rows.map((r) => [r.track, r]));
    const y = (track: string, at: number) => {
      const r = row.get(track);
      return r ? ((r.y + (r.forward ? at : r.to - at)) / whole) * HEIGHT : null;
    };
    pen.save();
    pen.beginPath();
    pen.rect(LEFT, 0, inner, HEIGHT);
    pen.clip();
    // What detectors saw, as bands.
    pen.fillStyle = ink("--amber");
    pen.globalAlpha = 0.22;
    const since = new Map<number, number>(trace.opening.lit.map((n) => [n, 0]));
    const band = (section: number, a: number, b: number) => {
      if (b < from || a > to) return;
      for (const p of pieces) {
        if (p.section !== section) continue;
        const one = y(p.track, p.start);
        const other = y(p.track, p.end);
        if (one !== null && other !== null)
          pen.fillRect(x(a), Math.min(one, other), Math.max(x(b) - x(a), 0.5), Math.abs(other - one));
      }
    };
    for (const change of trace.changes) {
      if (change.what !== "L") continue;
      if (change.value) since.set(change.id, change.t);
      else {
        band(change.id, since.get(change.id) ?? 0, change.t);
        since.delete(change.id);
      }
    }
    for (const [section, t] of since) band(section, t, trace.until);
    pen.globalAlpha = 1;
    const moving = trace.opening.trains.filter((t) => t.by !== "parked");
    const steps = Math.min(4000, Math.ceil(inner * 2));
    moving.forEach((train, k) => {
      const course = trace.courses[train.key];
      if (!course) return;
      pen.strokeStyle = ink(INKS[k % INKS.length] ?? "--ink");
      pen.lineWidth = 1.6;
      pen.setLineDash(DASHES[Math.floor(k / INKS.length) % DASHES.length] ?? []);
      pen.beginPath();
      let last: number | null = null;
      for (let n = 0; n <= steps; n++) {
        const t = from + ((to - from) * n) / steps;
        if (t > trace.until) break;
        const at = whereIs(course, t);
        const leg = at ? under(at.spans, at.s - 1, at.s).at(-1) : undefined;
        const here = leg ? y(leg[0], leg[2]) : null;
        // A jump of a tenth of the height is the way round, not a way run over.
        if (here === null || last === null || Math.abs(here - last) > HEIGHT / 8) pen.moveTo(x(t), here ?? 0);
        else pen.lineTo(x(t), here);
        last = here;
      }
      pen.stroke();
    });
    pen.restore();
    pen.setLineDash([]);
  }, [trace, rows, mark, width, from, to, pieces, whole]);
  return (
    <div className="relative" style={{ height: HEIGHT }} data-testid="string-line">
      {rows.map((r) => (
        <div
          key={r.track}
          className="absolute left-0 w-full border-line border-t"
          style={{ top: (r.y / whole) * HEIGHT, height: (r.to / whole) * HEIGHT }}
        >
          {(r.to / whole) * HEIGHT >= 11 ? (
            <span className="absolute left-2 w-[156px] truncate text-[10.5px] text-mute leading-[11px]">
              {trackName(r.track)}
            </span>
          ) : null}
        </div>
      ))}
      <canvas ref={canvas} className="absolute inset-0" style={{ width, height: HEIGHT }} />
    </div>
  );
}
