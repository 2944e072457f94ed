import { useEffect } from "react";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { PlanStep } from "../PlanStep";
import { BlockForCabs } from "./BlockForCabs";
import { Links, ThreeRails } from "./Links";
import { NewSelector } from "./NewSelector";
import { Panels } from "./Panels";
import { useCabs } from "./queries";
import { Stops } from "./Stops";
import { Switches } from "./Switches";

const TABS = [
  ["switches", "Switches"],
  ["panels", "Panels"],
] as const;

/** Who drives what: cabs, transformers and the switches that choose, with the panels they stand on. */
export function CabsStep() {
  const { selected, note } = useBench();
  const { data } = useCabs();
  const control = useLayout((s) => s.state?.document.brief?.control);
  const kinds = new Set([...(data?.sources ?? []).map((s) => s.control), control]);
  useEffect(() => {
    return () => useBench.setState({ note: null });
  }, []);
  return (
    <PlanStep
      label="Cabs"
      tabs={TABS}
      grows
      words={data?.words}
      over={
        note ? (
          <p
            role="status"
            className="absolute bottom-3 left-3 rounded-md border border-amber bg-card px-2.5 py-1.5 text-xs"
          >
            {note}
          </p>
        ) : null
      }
      under={(tab) => (tab === "switches" ? <Switches /> : <Panels />)}
    >
      {selected ? <Inspector /> : null}
      {kinds.has("dc") ? <BlockForCabs /> : null}
      <Links />
      <ThreeRails />
      {kinds.has("dcc") ? <Stops /> : null}
      <NewSelector />
      <Findings step="cabs" none="Nothing to settle about who drives what, for any lie of the switches." />
    </PlanStep>
  );
}
