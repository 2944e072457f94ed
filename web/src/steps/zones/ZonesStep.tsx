import { useEffect } from "react";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { PlanStep } from "../PlanStep";
import { Accessories } from "./Accessories";
import { Districts } from "./Districts";
import { DivideForMe } from "./DivideForMe";
import { Evenings } from "./Evenings";
import { OneLine } from "./OneLine";
import { Supplies } from "./Supplies";

const PANELS = [
  ["tree", "One-line diagram"],
  ["evenings", "Evenings played"],
  ["accessories", "Accessory power"],
  ["supplies", "Supplies"],
] as const;

/** Districts: the plan inked by them, the power tree under it, and what is to settle about them. */
export function ZonesStep() {
  const { selected, paint, note, placing } = useBench();
  useEffect(() => {
    return () => useBench.setState({ paint: null, note: null, placing: null });
  }, []);
  const hint = placing
    ? placing.what === "supply"
      ? "Click where the supply stands. Escape stops."
      : "Click where it stands; it is tied to the nearest terminal of its bus. Escape stops."
    : paint
      ? "Click a stretch to give it to this district; its feeders move to the nearest terminal there. Escape stops."
      : null;
  const over = (
    <>
      {hint ? (
        <p
          className="pointer-events-none absolute bottom-3 left-3 rounded-md bg-paper/90 px-2 py-1 text-[11.5px] text-mute"
          data-testid="hint"
        >
          {hint}
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
    </>
  );
  return (
    <PlanStep
      label="Zones"
      tabs={PANELS}
      grows
      over={over}
      under={(tab) =>
        tab === "tree" ? (
          <OneLine />
        ) : tab === "evenings" ? (
          <Evenings />
        ) : tab === "supplies" ? (
          <Supplies />
        ) : (
          <Accessories />
        )
      }
    >
      {selected ? <Inspector /> : null}
      <DivideForMe />
      <Districts />
      <Findings
        step="zones"
        none="Nothing to settle about districts in this scene. Do the coin test at the far rail of each before you believe it."
      />
    </PlanStep>
  );
}
