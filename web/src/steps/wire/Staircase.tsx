import type { Shape } from "../../api/client";
import { usePoint } from "../../api/queries";
import { bound } from "../../parts/bound";
import { type Kind, useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

const KIND: Record<string, Kind> = {
  source: "device",
  device: "device",
  run: "run",
  feeder: "feeder",
  rail: "track",
  joiner: "track",
  inductance: "run",
  contact: "terminal",
  plug: "plug",
};

/** Where the volts go: each thing on the way takes its step, from the supply down to the wheel. */
export function Staircase() {
  const { data: point, isPlaceholderData } = usePoint();
  const { look, picked, show, lit } = useBench();
  const scene = useBench((s) => s.scene);
  const sceneName = useLayout((s) => (scene ? s.state?.document.scenes?.[scene]?.name : undefined));
  if (!point)
    return (
      <section aria-label="Where the volts go">
        <h2 className="font-bold text-[12.5px]">Where the volts go</h2>
        <p className="mt-1 text-mute text-xs">
          Nothing on this layout is live yet. Click a track once a booster, a bus and a feeder reach it.
        </p>
      </section>
    );
  const first = point.trains[0];
  const others = point.trains.length - 1;
  const total = point.steps.reduce((sum, s) => sum + s.volts, 0);
  const biggest = point.steps.reduce<Shape["StepShape"] | null>((m, s) => (!m || s.volts > m.volts ? s : m), null);
  let fallen = 0;
  return (
    <section aria-label="Where the volts go" aria-busy={isPlaceholderData} className="min-w-0">
      <h2 className="mb-1 text-[12.5px]">
        <span className="font-bold">Where the volts go</span>
        <span className="text-mute">
          {" "}
          ·{" "}
          {picked
            ? point.track_name
            : look === "coin"
              ? `weakest short, ${point.track_name}`
              : `worst point, ${point.track_name}`}
          {first ? `: ${first.name} with ${first.amps_text}` : ""}
          {others > 0 ? `, ${others} other${others > 1 ? "s" : ""} placed to hurt it most` : ""}
          {sceneName ? ` · ${sceneName}` : ""}
        </span>
      </h2>
      {point.live ? (
        <>
          <ol className="grid gap-px">
            {point.steps.map((step) => {
              const start = total > 0 ? (fallen / total) * 100 : 0;
              fallen += step.volts;
              const width = total > 0 ? Math.max((step.volts / total) * 100, 0.6) : 0;
              const kind = KIND[step.kind];
              const owner = step.owners[0];
              const on = step.owners.some((o) => lit.includes(o));
              return (
                <li key={step.kind + step.title}>
                  <button
                    type="button"
                    className={`grid w-full grid-cols-[minmax(104px,150px)_minmax(70px,190px)_minmax(40px,1fr)_62px] items-center gap-1.5 rounded px-1 text-left text-xs leading-[18px] hover:bg-board ${on ? "bg-board" : ""}`}
                    title="Show it on the plan"
                    onClick={() =>
                      kind &&
                      owner &&
                      show(
                        kind === "plug" || kind === "terminal" ? null : { kind, id: owner },
                        kind === "track" ? { track: point.track, at: point.at } : null,
                        step.owners,
                      )
                    }
                  >
                    <span className={`truncate ${step === biggest ? "font-bold" : "font-semibold"}`}>
                      {bound(step.title)}
                    </span>
                    <span className="truncate text-[11px] text-mute">{bound(step.detail)}</span>
                    <span className="relative block h-[11px] bg-[repeating-linear-gradient(90deg,var(--line)_0_1px,transparent_1px_14.28%)]">
                      <span
                        className={`absolute top-0 h-full rounded-[2px] ${step.estimate ? "border border-link border-dashed bg-[repeating-linear-gradient(135deg,var(--copper)_0_3px,transparent_3px_6px)]" : "bg-linear-to-b from-[#D98B55] via-[#B5622B] to-[#8A4519]"}`}
                        style={{ left: `${Math.min(start, 99)}%`, width: `${width}%` }}
                      />
                    </span>
                    <span className="figure text-right">{bound(step.text)}</span>
                  </button>
                </li>
              );
            })}
          </ol>
          <p className="mt-1 flex flex-wrap gap-x-3 border-line border-t px-1 pt-1 text-xs" data-testid="point-facts">
            <span>
              <b className="figure">{bound(point.volts_text)}</b> at the wheel of {bound(point.source_text)},{" "}
              {bound(point.lost_text)} down;{" "}
              {point.exact_text === point.volts_text
                ? "all by resistance"
                : `${point.exact_text} by resistance alone, ${point.least_text} at worst`}
            </span>
            <span className="text-mute">
              short here <b className="figure text-ink">{bound(point.coin_text)}</b>
              {point.coin_text !== point.coin_exact_text ? ` (${point.coin_exact_text} by resistance alone)` : ""}
              {point.limit_text ? `; ${point.limit_text}` : ""}
              {point.coin_mean_text
                ? `; ${point.coin_mean_text} to a breaker that reads the mean, ${point.coin_peak_text} the peak`
                : ""}
              {point.trip_text
                ? `, ${point.trip_device} ${point.trips ? "trips" : "does not trip"} at ${point.trip_text}`
                : ", no protection"}
            </span>
          </p>
        </>
      ) : (
        <p className="rounded border border-line bg-paper p-2 text-xs">
          <b>{point.track_name} has no volts here.</b> One of its rails, or both, has no way to a source: no feeder
          between its gaps, or a feeder whose bus is not powered. To settle says which.
        </p>
      )}
    </section>
  );
}
