import { useEffect } from "react";
import { useBench, useTab } from "../../store/bench";
import { NO_GHOSTS } from "../../store/bench/proposed";
import { PlanStep } from "../PlanStep";
import { Acts, DrillCard } from "./Drill";
import { FindCard, HuntLog } from "./Find";
import { Learned } from "./Learned";
import { Log } from "./Log";
import { useTests } from "./queries";
import { TestCard } from "./TestCard";
import { TestList } from "./TestList";

const TABS = [
  ["prove", "Prove"],
  ["readings", "Readings"],
  ["find", "Find it"],
  ["drill", "Drill"],
] as const;

/** Prove the copper by meter, keep the readings, find what is wrong, and practise finding it. */
export function BenchStep() {
  const { data } = useTests();
  const [tab] = useTab(TABS);
  useEffect(() => () => useBench.setState({ proofs: NO_GHOSTS.proofs }), []);
  return (
    <PlanStep
      label="Bench"
      tabs={TABS}
      words={data?.words}
      grows
      under={(now) =>
        now === "prove" ? <TestList /> : now === "readings" ? <Log /> : now === "find" ? <HuntLog /> : <Acts />
      }
    >
      {tab === "prove" ? <TestCard /> : null}
      {tab === "readings" ? <Learned /> : null}
      {tab === "find" ? <FindCard /> : null}
      {tab === "drill" ? <DrillCard /> : null}
    </PlanStep>
  );
}
