import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Segmented } from "../../parts/Segmented";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench, useTab } from "../../store/bench";
import { LayIt } from "./LayIt";
import { SizeIt } from "./SizeIt";
import { Staircase } from "./Staircase";
import { Waveform } from "./Waveform";
import { WhatIf } from "./WhatIf";

const PANELS = [
  ["volts", "Where the volts go"],
  ["lay", "Lay it"],
  ["size", "Size it"],
  ["waveform", "Waveform"],
] as const;

/** The wiring: the plan and its looks, where the volts go, what one change would do, laying and sizing, and what to settle. */
export function WireStep() {
  const [panel, setPanel] = useTab(PANELS);
  const set = useBench((s) => s.set);
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_300px] xl:grid-cols-[minmax(0,1fr)_326px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_auto]">
        <div className="relative min-h-0">
          <Looks />
          <Plan />
        </div>
        <div className="grid h-[284px] max-h-[48vh] grid-rows-[auto_minmax(0,1fr)] border-line border-t bg-card">
          <div className="no-print px-3.5 pt-2">
            <div className="flex items-center gap-3">
              <Segmented label="Under the plan" value={panel} options={PANELS} onChange={setPanel} />
              <button type="button" className="btn" onClick={() => set({ step: "table" })}>
                Wire table
              </button>
            </div>
          </div>
          {panel === "volts" ? (
            <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_226px] gap-4 overflow-y-auto px-3.5 py-2.5">
              <Staircase />
              <WhatIf />
            </div>
          ) : (
            <div className="min-h-0 overflow-auto px-3.5 py-2.5">
              {panel === "lay" ? <LayIt /> : panel === "size" ? <SizeIt /> : <Waveform />}
            </div>
          )}
        </div>
      </div>
      <aside aria-label="To settle" className="flex min-h-0 flex-col border-line border-l bg-card">
        <Inspector />
        <Findings />
      </aside>
    </div>
  );
}
