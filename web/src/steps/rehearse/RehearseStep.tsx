import { useEffect } from "react";
import { Inspector } from "../../inspect/Inspector";
import { useBench } from "../../store/bench";
import { useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { PlanStep } from "../PlanStep";
import { Note } from "../signal/Note";
import { About } from "./About";
import { ByHand } from "./ByHand";
import { EveningCard } from "./EveningCard";
import { Faults } from "./Faults";
import { Kept } from "./Kept";
import { Live } from "./Live";
import { Log } from "./Log";
import { Many } from "./Many";
import { PlayerBar } from "./PlayerBar";
import { ProofTab } from "./ProofTab";
import { stop } from "./run";
import { StringLine } from "./StringLine";
import { Strips } from "./Strips";
import { Timetable } from "./Timetable";
import { TryFirst } from "./TryFirst";
import { usePlayer } from "./usePlayer";
import { Verdict } from "./Verdict";

const TABS = [
  ["log", "What happens"],
  ["strips", "Amps and volts"],
  ["lines", "Who is where"],
  ["plan", "The plan"],
  ["proof", "Face to face"],
  ["many", "Many evenings"],
  ["kept", "Kept"],
  ["first", "Try first"],
  ["live", "Live"],
] as const;

/** The running railroad: a plan of an evening, run on the plan of the layout. */
export function RehearseStep() {
  const layout = useLayout((s) => s.state?.id);
  const selected = useBench((s) => s.selected);
  const hasSignals = useLayout((s) => Object.keys(s.state?.document.signals ?? {}).length > 0);
  usePlayer();
  useEffect(() => {
    // What ran on another layout is not this one's.
    const evening = useEvening.getState();
    if (layout && evening.layout && evening.layout !== layout) {
      stop();
      evening.set({ trace: null, cameTo: null, ran: null, planId: null, now: 0, before: null, about: null });
    }
    return () => useEvening.getState().set({ playing: false });
  }, [layout]);
  return (
    <PlanStep
      label="Rehearse"
      tabs={TABS}
      grows
      words={hasSignals ? undefined : "No signals yet: trains run by sight."}
      over={<Note />}
      foot={<PlayerBar />}
      under={(tab) => {
        switch (tab) {
          case "log":
            return <Log />;
          case "strips":
            return <Strips />;
          case "lines":
            return <StringLine />;
          case "plan":
            return <Timetable />;
          case "proof":
            return <ProofTab />;
          case "many":
            return <Many />;
          case "live":
            return <Live />;
          case "kept":
            return <Kept />;
          default:
            return <TryFirst />;
        }
      }}
    >
      <EveningCard />
      <About />
      {selected && selected.kind !== "signal" ? <Inspector /> : null}
      <ByHand />
      <Verdict />
      <Faults />
    </PlanStep>
  );
}
