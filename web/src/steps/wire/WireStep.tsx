import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { Findings } from "./Findings";
import { Inspector } from "./Inspector";
import { Staircase } from "./Staircase";
import { WhatIf } from "./WhatIf";

/** The wiring: the plan and its looks, where the volts go, what one change would do, and what to settle. */
export function WireStep() {
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_300px] xl:grid-cols-[minmax(0,1fr)_326px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_auto]">
        <div className="relative min-h-0">
          <Looks />
          <Plan />
        </div>
        <div className="grid h-[252px] max-h-[46vh] grid-cols-[minmax(0,1fr)_226px] gap-4 overflow-y-auto border-line border-t bg-card px-3.5 py-2.5">
          <Staircase />
          <WhatIf />
        </div>
      </div>
      <aside aria-label="To settle" className="flex min-h-0 flex-col border-line border-l bg-card">
        <Inspector />
        <Findings />
      </aside>
    </div>
  );
}
