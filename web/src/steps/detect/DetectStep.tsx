import { useEffect } from "react";
import { useDetection } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Segmented } from "../../parts/Segmented";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench, useTab } from "../../store/bench";
import { Note } from "../signal/Note";
import { TrainsOnPlan } from "../signal/TrainsOnPlan";
import { Axles } from "./Axles";
import { BlockIt } from "./BlockIt";
import { Boards } from "./Boards";
import { Sections } from "./Sections";

const PANELS = [
  ["sections", "Sections"],
  ["boards", "Boards and addresses"],
  ["axles", "Resistor axles"],
] as const;

/** Who is where: blocks, detection sections, channels with their addresses, and what they see. */
export function DetectStep() {
  const selected = useBench((s) => s.selected);
  const [panel, setPanel] = useTab(PANELS);
  const { data } = useDetection();
  useEffect(() => {
    return () => useBench.getState().set({ ghostGaps: [], ghostInks: [], placing: null, note: null });
  }, []);
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_316px] xl:grid-cols-[minmax(0,1fr)_340px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_minmax(180px,36%)]">
        <div className="relative min-h-0">
          <Looks />
          <Plan />
          <Note />
        </div>
        <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)] border-line border-t bg-card">
          <div className="no-print flex flex-wrap items-center gap-3 px-3 pt-2 pb-1.5">
            <Segmented label="Under the plan" value={panel} options={PANELS} onChange={setPanel} />
            <span className="text-mute text-xs">{data?.words}</span>
          </div>
          <div className="min-h-0 overflow-auto">
            {panel === "sections" ? <Sections /> : panel === "boards" ? <Boards /> : <Axles />}
          </div>
        </div>
      </div>
      <aside aria-label="Detect" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {selected ? <Inspector /> : null}
        <BlockIt />
        {data?.boards.length ? <TrainsOnPlan /> : null}
        <Findings
          step="detect"
          none="Nothing to settle about detection. Put an engine on each section once and see its address come, before you believe it."
        />
      </aside>
    </div>
  );
}
