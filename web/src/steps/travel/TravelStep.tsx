import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { PlanStep } from "../PlanStep";
import { Connectors } from "./Connectors";
import { DoorsOpen } from "./DoorsOpen";
import { Joints } from "./Joints";
import { Packing } from "./Packing";
import { PlugThem } from "./PlugThem";
import { useTravel } from "./queries";
import { SetUp } from "./SetUp";
import { Wishes } from "./Wishes";

const TABS = [
  ["joints", "Joints"],
  ["connectors", "Connectors"],
  ["setup", "Set up"],
  ["doors", "Before the doors open"],
  ["packing", "Take down and pack"],
] as const;

/** Boards that lift out: their joints and connectors, and the railroad set up, tried and taken down. */
export function TravelStep() {
  const selected = useBench((s) => s.selected);
  const { data } = useTravel();
  return (
    <PlanStep
      label="Travel"
      tabs={TABS}
      grows
      words={data?.words}
      under={(tab) =>
        tab === "joints" ? (
          <Joints />
        ) : tab === "connectors" ? (
          <Connectors />
        ) : tab === "setup" ? (
          <SetUp />
        ) : tab === "doors" ? (
          <DoorsOpen />
        ) : (
          <Packing />
        )
      }
    >
      {selected ? <Inspector /> : null}
      <PlugThem />
      <Wishes />
      <Findings step="travel" none="Nothing to settle at the joints." />
    </PlanStep>
  );
}
