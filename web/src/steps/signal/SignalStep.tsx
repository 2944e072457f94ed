import { useEffect, useState } from "react";
import { useSignals } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Segmented } from "../../parts/Segmented";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench, useTab } from "../../store/bench";
import { AspectTable } from "./AspectTable";
import { Interlocking } from "./Interlocking";
import { Note } from "./Note";
import { Outputs } from "./Outputs";
import { Panel } from "./Panel";
import { SignalIt } from "./SignalIt";
import { TrainsOnPlan } from "./TrainsOnPlan";

const PANELS = [
  ["aspects", "What they show"],
  ["interlocking", "Interlocking"],
  ["outputs", "Drivers and lamps"],
  ["panel", "Panel"],
] as const;

/** What may move: signals, the table of what they show, the interlocking, what drives them, and the panel. */
export function SignalStep() {
  const selected = useBench((s) => s.selected);
  const [panel, setPanel] = useTab(PANELS);
  const [tall, setTall] = useState(false);
  const { data } = useSignals();
  useEffect(() => {
    return () => useBench.getState().set({ ghostHeads: [], placing: null, note: null });
  }, []);
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_316px] xl:grid-cols-[minmax(0,1fr)_340px]">
      <div
        className={`grid min-h-0 min-w-0 ${tall ? "grid-rows-[minmax(0,36%)_minmax(0,1fr)]" : "grid-rows-[minmax(0,1fr)_minmax(180px,36%)]"}`}
      >
        <div className="relative min-h-0">
          <Looks />
          <Plan />
          <Note />
        </div>
        <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)] border-line border-t bg-card">
          <div className="no-print flex flex-wrap items-center gap-3 px-3 pt-2 pb-1.5">
            <Segmented label="Under the plan" value={panel} options={PANELS} onChange={setPanel} />
            <button type="button" className="act text-xs" aria-pressed={tall} onClick={() => setTall(!tall)}>
              {tall ? "Smaller" : "Taller"}
            </button>
            <span className="text-mute text-xs">{data?.words}</span>
          </div>
          <div className="min-h-0 overflow-auto">
            {panel === "aspects" ? (
              <AspectTable />
            ) : panel === "interlocking" ? (
              <Interlocking />
            ) : panel === "outputs" ? (
              <Outputs />
            ) : (
              <Panel />
            )}
          </div>
        </div>
      </div>
      <aside aria-label="Signal" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {selected ? <Inspector /> : null}
        <SignalIt />
        <TrainsOnPlan />
        <Findings
          step="signal"
          none="Nothing to settle about signals. Throw each turnout by hand once and see the heads answer, before you believe it."
        />
      </aside>
    </div>
  );
}
