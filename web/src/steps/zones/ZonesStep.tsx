import { useEffect, useState } from "react";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Segmented } from "../../parts/Segmented";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench, useTab } from "../../store/bench";
import { Accessories } from "./Accessories";
import { Districts } from "./Districts";
import { DivideForMe } from "./DivideForMe";
import { Evenings } from "./Evenings";
import { OneLine } from "./OneLine";

const PANELS = [
  ["tree", "One-line diagram"],
  ["evenings", "Evenings played"],
  ["accessories", "Accessory power"],
] as const;

/** Districts: the plan inked by them, the power tree under it, and what is to settle about them. */
export function ZonesStep() {
  const { selected, paint, note, placing } = useBench();
  const [panel, setPanel] = useTab(PANELS);
  const [tall, setTall] = useState(false);
  useEffect(() => {
    return () => useBench.setState({ paint: null, note: null, placing: null });
  }, []);
  const hint = placing
    ? placing.what === "supply"
      ? "Click where the supply stands. Escape stops."
      : "Click where it stands; it is tied to the nearest terminal of its bus. Escape stops."
    : paint
      ? "Click a stretch to give it to this district; its feeders move to the nearest terminal there. Escape stops."
      : null;
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_300px] xl:grid-cols-[minmax(0,1fr)_326px]">
      <div
        className={`grid min-h-0 min-w-0 ${tall ? "grid-rows-[minmax(0,16%)_minmax(0,1fr)]" : "grid-rows-[minmax(0,1fr)_minmax(230px,44%)]"}`}
      >
        <div className="relative min-h-0">
          <Looks />
          <Plan />
          {hint ? (
            <p
              className="pointer-events-none absolute bottom-3 left-3 rounded-md bg-paper/90 px-2 py-1 text-[11.5px] text-mute"
              data-testid="hint"
            >
              {hint}
            </p>
          ) : null}
          {note ? (
            <p
              role="status"
              className="absolute bottom-10 left-3 rounded-md border border-amber bg-card px-2.5 py-1.5 text-xs"
            >
              {note}
            </p>
          ) : null}
        </div>
        <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)] border-line border-t bg-card">
          <div className="no-print flex items-center gap-3 px-3 pt-2">
            <Segmented label="Under the plan" value={panel} options={PANELS} onChange={setPanel} />
            <button type="button" className="act text-xs" aria-pressed={tall} onClick={() => setTall(!tall)}>
              {tall ? "Smaller" : "Taller"}
            </button>
          </div>
          {panel === "tree" ? <OneLine /> : panel === "evenings" ? <Evenings /> : <Accessories />}
        </div>
      </div>
      <aside aria-label="Zones" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {selected ? <Inspector /> : null}
        <DivideForMe />
        <Districts />
        <Findings
          step="zones"
          none="Nothing to settle about districts in this scene. Do the coin test at the far rail of each before you believe it."
        />
      </aside>
    </div>
  );
}
