import { Pause, Play, SkipBack, SkipForward } from "lucide-react";
import { clock, SPEEDS, useEvening } from "../../store/evening";
import { stop } from "./run";
import { step } from "./usePlayer";

/** Over the plan: play, pause, speed, the moment that is shown, and how far it is worked out. */
export function PlayerBar() {
  const trace = useEvening((s) => s.trace);
  const playing = useEvening((s) => s.playing);
  const speed = useEvening((s) => s.speed);
  const running = useEvening((s) => s.running);
  const second = useEvening((s) => Math.floor(s.now));
  const until = useEvening((s) => (s.grown >= 0 ? Math.floor(s.trace?.until ?? 0) : 0));
  const set = useEvening((s) => s.set);
  if (!trace) return null;
  const whole = trace.opening.seconds;
  return (
    <section aria-label="Player" className="no-print flex items-center gap-2 border-line border-t bg-card px-3 py-1">
      <button type="button" className="btn px-1.5" aria-label="To the event before (,)" onClick={() => step(-1)}>
        <SkipBack size={14} aria-hidden="true" />
      </button>
      <button
        type="button"
        className="btn-main px-2"
        aria-label={playing ? "Pause (space)" : "Play (space)"}
        onClick={() => set({ playing: !playing })}
      >
        {playing ? <Pause size={15} aria-hidden="true" /> : <Play size={15} aria-hidden="true" />}
      </button>
      <button type="button" className="btn px-1.5" aria-label="To the next event (.)" onClick={() => step(1)}>
        <SkipForward size={14} aria-hidden="true" />
      </button>
      <select
        className="field w-[74px] py-0.5 text-xs"
        aria-label="Times as fast"
        value={speed}
        onChange={(e) => set({ speed: Number(e.target.value) })}
      >
        {SPEEDS.map((s) => (
          <option key={s} value={s}>
            {s} ×
          </option>
        ))}
      </select>
      <span className="figure whitespace-nowrap text-[13px] tabular-nums" data-testid="clock">
        {clock(second)}
      </span>
      <input
        type="range"
        className="min-w-0 flex-1 accent-(--copper)"
        aria-label="Moment of the evening"
        aria-valuetext={clock(second)}
        min={0}
        max={Math.ceil(whole)}
        step={1}
        value={second}
        onChange={(e) => {
          set({ playing: false });
          useEvening.getState().seek(Number(e.target.value));
        }}
      />
      <span className="figure whitespace-nowrap text-[11px] text-mute">
        {running ? `${Math.round((100 * until) / whole)} % worked out` : clock(until)}
      </span>
      {running ? (
        <button type="button" className="btn py-0.5 text-xs" onClick={stop}>
          Stop
        </button>
      ) : null}
    </section>
  );
}
