import { useEffect } from "react";
import { useSignals } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { PlanStep } from "../PlanStep";
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
  const { data } = useSignals();
  useEffect(() => {
    return () => useBench.getState().set({ ghostHeads: [], placing: null, note: null });
  }, []);
  return (
    <PlanStep
      label="Signal"
      tabs={PANELS}
      grows
      words={data?.words}
      over={<Note />}
      under={(tab) =>
        tab === "aspects" ? (
          <AspectTable />
        ) : tab === "interlocking" ? (
          <Interlocking />
        ) : tab === "outputs" ? (
          <Outputs />
        ) : (
          <Panel />
        )
      }
    >
      {selected ? <Inspector /> : null}
      <SignalIt />
      <TrainsOnPlan />
      <Findings
        step="signal"
        none="Nothing to settle about signals. Throw each turnout by hand once and see the heads answer, before you believe it."
      />
    </PlanStep>
  );
}
