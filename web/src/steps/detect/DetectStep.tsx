import { useEffect } from "react";
import { useDetection } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { PlanStep } from "../PlanStep";
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
  const { data } = useDetection();
  useEffect(() => {
    return () => useBench.getState().set({ ghostGaps: [], ghostInks: [], placing: null, note: null });
  }, []);
  return (
    <PlanStep
      label="Detect"
      tabs={PANELS}
      words={data?.words}
      over={<Note />}
      under={(tab) => (tab === "sections" ? <Sections /> : tab === "boards" ? <Boards /> : <Axles />)}
    >
      {selected ? <Inspector /> : null}
      <BlockIt />
      {data?.boards.length ? <TrainsOnPlan /> : null}
      <Findings
        step="detect"
        none="Nothing to settle about detection. Put an engine on each section once and see its address come, before you believe it."
      />
    </PlanStep>
  );
}
