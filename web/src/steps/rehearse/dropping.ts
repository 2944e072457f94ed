import { useBench } from "../../store/bench";
import { type Fault, useEvening } from "../../store/evening";
import { drop } from "./run";

/** The kind of data a fault is dragged as. */
export const DROPPED = "application/x-jolly-fault";

export const FAULTS: readonly { kind: Fault["kind"]; name: string; on: "track" | "train" | "node" | "device" }[] = [
  { kind: "tool on the rail", name: "Tool on the rail", on: "track" },
  { kind: "derailment", name: "Derailment", on: "train" },
  { kind: "turnout dumb", name: "Turnout does not answer", on: "node" },
  { kind: "dead joiner", name: "Dead joiner", on: "track" },
  { kind: "stuck contact", name: "Stuck detector", on: "track" },
  { kind: "device off", name: "Breaker off", on: "device" },
  { kind: "wheels not insulated", name: "Wheelset not insulated", on: "train" },
];
export const WANTS = { track: "a track", train: "a train", node: "a turnout", device: "a breaker or booster" };

/** Drops a fault where it was let go: on a place of track, a turnout, a device, or a train. */
export function dropAt(
  kind: string,
  on: { track: string; at: number } | null,
  thing: { kind: string; id: string } | null,
) {
  const fault = FAULTS.find((f) => f.kind === kind);
  const { now, about } = useEvening.getState();
  const seconds = Math.round(now * 10) / 10;
  const want = (words: string) => useBench.getState().set({ note: words });
  if (!fault) return;
  if (fault.on === "track") {
    if (!on) return want(`${fault.name}: let it go on a track.`);
    return void drop({ kind: fault.kind, seconds, track: on.track, at: Math.round(on.at * 10) / 10 });
  }
  if (fault.on === "train") {
    const train = about?.kind === "train" ? about.id : null;
    if (!train) return want(`${fault.name}: choose a train first, on the plan or in the list.`);
    return void drop({ kind: fault.kind, seconds, train });
  }
  if (thing?.kind !== fault.on) return want(`${fault.name}: let it go on ${WANTS[fault.on]}.`);
  return void drop({ kind: fault.kind, seconds, [fault.on]: thing.id } as Fault);
}
