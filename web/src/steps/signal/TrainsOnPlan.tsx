import { Pause, Play, Repeat2, X } from "lucide-react";
import { useState } from "react";
import { useMoment } from "../../api/queries";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { useTrainsOn } from "../../store/trainsOn";
import { Fold } from "../track/Fold";
import { useDriving } from "./useDriving";

/** Trains put on the plan: place one, drive it, and watch sections light and heads answer. */
export function TrainsOnPlan() {
  const layout = useLayout((s) => s.state?.document);
  const placing = useBench((s) => s.placing);
  const picked = useBench((s) => s.picked);
  const set = useBench((s) => s.set);
  const here = useBench((s) => s.step);
  const on = useTrainsOn();
  const moment = useMoment();
  const { step } = useDriving();
  const trains = Object.entries(layout?.trains ?? {});
  const [chosen, setChosen] = useState("");
  const name = layout?.trains?.[chosen]?.name ?? "Test engine";
  const mine = on.trains[on.drives];
  return (
    <Fold title="Trains on the plan">
      <div className="flex flex-wrap items-end gap-2">
        <label className="min-w-0 flex-1 text-[11.5px] text-mute">
          Train
          <select className="field mt-0.5 text-ink" value={chosen} onChange={(e) => setChosen(e.target.value)}>
            <option value="">Test engine</option>
            {trains.map(([id, t]) => (
              <option key={id} value={id}>
                {t.name}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="btn"
          aria-pressed={placing?.what === "train"}
          onClick={() =>
            set({
              placing: { what: "train", train: chosen || null, name },
              look: here === "detect" ? "blocks" : "signals",
            })
          }
        >
          Place it
        </button>
      </div>
      {picked ? (
        <button
          type="button"
          className="act mt-1 text-xs"
          onClick={() => {
            set({ placing: null, note: null, look: here === "detect" ? "blocks" : "signals" });
            on.put({ name, train: chosen || null, track: picked.track, at: picked.at });
          }}
        >
          Place it where you last looked, on {layout?.tracks?.[picked.track]?.name ?? picked.track}
        </button>
      ) : null}
      {on.trains.length ? (
        <ul className="mt-2 grid gap-1" data-testid="placed-trains">
          {on.trains.map((t, k) => (
            <li
              key={t.name}
              className={`flex items-center gap-1.5 rounded-md border px-2 py-1 text-xs ${k === on.drives ? "border-copper bg-paper" : "border-line"}`}
            >
              <button
                type="button"
                className="min-w-0 flex-1 truncate text-left"
                aria-pressed={k === on.drives}
                onClick={() => on.set({ drives: k, running: false })}
              >
                <b>{t.name}</b> · {layout?.tracks?.[t.track]?.name ?? "not on this layout"}
              </button>
              <button
                type="button"
                className="btn px-1 py-0.5"
                aria-label={`Take ${t.name} off`}
                onClick={() => on.away(k)}
              >
                <X size={12} aria-hidden="true" />
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-2 text-mute text-xs">
          Place a train and the sections it lights light up; drive it over a gap and both do.
        </p>
      )}
      {mine ? (
        <div className="mt-2 flex flex-wrap items-center gap-1.5">
          <button
            type="button"
            className="btn-main flex items-center gap-1"
            onClick={() => on.set({ running: !on.running, stopped: null })}
          >
            {on.running ? <Pause size={13} aria-hidden="true" /> : <Play size={13} aria-hidden="true" />}
            {on.running ? "Halt" : "Drive"}
          </button>
          <button type="button" className="btn" disabled={on.running} onClick={() => void step(25)}>
            A step
          </button>
          <button
            type="button"
            className="btn flex items-center gap-1"
            disabled={on.running}
            onClick={() => void step(0, true)}
          >
            <Repeat2 size={13} aria-hidden="true" /> Turn
          </button>
          <label className="flex items-center gap-1 text-xs">
            <input type="checkbox" checked={on.obeys} onChange={(e) => on.set({ obeys: e.target.checked })} />
            obeys signals
          </label>
        </div>
      ) : null}
      <p className="mt-1.5 text-xs" role="status" data-testid="moment">
        {moment && on.trains.length
          ? moment.lit.length
            ? `${moment.lit.length} section${moment.lit.length === 1 ? "" : "s"} lit`
            : "no section lit"
          : ""}
        {moment?.unseen.length ? `; part of a train stands unseen on ${moment.unseen.length}` : ""}
        {on.stopped ? ` · ${on.stopped}` : ""}
      </p>
    </Fold>
  );
}
