import { useEffect } from "react";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench } from "../../store/bench";
import { Findings } from "../wire/Findings";
import { Inspector } from "../wire/Inspector";
import { Districts } from "./Districts";
import { OneLine } from "./OneLine";

/** Districts: the plan inked by them, the one-line diagram under it, and what is to settle about them. */
export function ZonesStep() {
  const { selected, paint, note } = useBench();
  useEffect(() => {
    useBench.getState().set({ look: "zones", picked: null });
    return () => useBench.setState({ paint: null, note: null });
  }, []);
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_300px] xl:grid-cols-[minmax(0,1fr)_326px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_minmax(200px,42%)]">
        <div className="relative min-h-0">
          <Looks />
          <Plan />
          {paint ? (
            <p
              className="pointer-events-none absolute bottom-3 left-3 rounded-md bg-paper/90 px-2 py-1 text-[11.5px] text-mute"
              data-testid="hint"
            >
              Click a stretch to give it to this district; its feeders move to the nearest terminal there. Escape stops.
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
        <OneLine />
      </div>
      <aside aria-label="Zones" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {selected ? <Inspector /> : null}
        <Districts />
        <Findings step="zones" />
      </aside>
    </div>
  );
}
