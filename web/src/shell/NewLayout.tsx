import { useState } from "react";
import { answer, api } from "../api/client";
import { Segmented } from "../parts/Segmented";
import { Sheet } from "../parts/Sheet";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";

const SCALES = ["Z", "N", "TT", "HO", "OO", "S", "O", "G"] as const;
const CONTROLS = [
  ["dcc", "Digital"],
  ["dc", "DC"],
  ["ac3", "Three-rail AC"],
] as const;
const UNITS = [
  ["imperial", "ft · AWG"],
  ["metric", "m · mm²"],
] as const;

/** Opens the sheet of a new layout, which the frame shows. */
export function NewLayout({ main = false }: { main?: boolean }) {
  const set = useBench((s) => s.set);
  return (
    <button type="button" className={main ? "btn-main" : "btn"} onClick={() => set({ beginning: true })}>
      New layout…
    </button>
  );
}

/** A new layout: what has to be settled before the first track. */
export function NewLayoutSheet({ onClose }: { onClose: () => void }) {
  const take = useLayout((s) => s.take);
  const set = useBench((s) => s.set);
  const [name, setName] = useState("");
  const [scale, setScale] = useState<(typeof SCALES)[number]>("HO");
  const [control, setControl] = useState<"dcc" | "dc" | "ac3">("dcc");
  const [units, setUnits] = useState<"imperial" | "metric">("imperial");
  const [wrong, setWrong] = useState<string | null>(null);
  const make = async () => {
    if (!name.trim()) return setWrong("Give the layout a name.");
    try {
      const state = await answer(api.POST("/api/layouts/new", { body: { name: name.trim(), scale, control, units } }));
      take(state);
      set({ step: "track", tool: "track", look: "track" });
      onClose();
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <Sheet
      title="New layout"
      lead="Control decides current, wire and gaps; the rest can be changed later."
      onClose={onClose}
    >
      <form
        className="mt-3 grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void make();
        }}
      >
        <label className="text-mute text-xs">
          Name
          <input
            className="field mt-0.5 text-ink"
            value={name}
            // biome-ignore lint/a11y/noAutofocus: the dialog was opened to type a name
            autoFocus
            maxLength={80}
            aria-invalid={wrong !== null}
            onChange={(event) => {
              setName(event.target.value);
              setWrong(null);
            }}
          />
        </label>
        {wrong ? (
          <p role="alert" className="-mt-2 text-oxide text-xs">
            {wrong}
          </p>
        ) : null}
        <div className="grid gap-1">
          <span className="text-mute text-xs">Scale</span>
          <Segmented label="Scale" value={scale} options={SCALES.map((s) => [s, s] as const)} onChange={setScale} />
        </div>
        <div className="grid gap-1">
          <span className="text-mute text-xs">Control</span>
          <Segmented label="Control" value={control} options={CONTROLS} onChange={setControl} />
        </div>
        <div className="grid gap-1">
          <span className="text-mute text-xs">Units</span>
          <Segmented label="Units of the new layout" value={units} options={UNITS} onChange={setUnits} />
        </div>
        <div className="flex justify-end gap-2">
          <button type="button" className="btn" onClick={onClose}>
            Leave it
          </button>
          <button type="submit" className="btn-main">
            Start drawing
          </button>
        </div>
      </form>
    </Sheet>
  );
}
