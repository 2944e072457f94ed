import { LOOK_NAMES } from "../plan/lookNames";
import { TOOL_GROUPS } from "../steps/track/toolList";
import { type Look, type Step, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { STEP_NAMES } from "./stepNames";

/** Steps that show no plan: what is found on the plan is shown at the step Wire then. */
const NO_PLAN: Step[] = ["brief", "sums", "trains", "book"];
export const planStep = () => {
  const { step } = useBench.getState();
  return NO_PLAN.includes(step) ? "wire" : step;
};

export type Act = readonly [name: string, what: string, run: () => void];
const set = (part: Parameters<ReturnType<typeof useBench.getState>["set"]>[0]) => useBench.getState().set(part);
const turn = (step: Step, tab: string) => {
  set({ step });
  useBench.setState((s) => ({ tabs: { ...s.tabs, [step]: tab } }));
};

/** Looks that are about wire: they lead there. */
const OF_WIRE: Look[] = ["track", "volts", "coin"];

/** What is done in a step or on one of its tabs, as people ask for it. */
const PLACES: readonly (readonly [name: string, step: Step, tab: string])[] = [
  ["Lay it: buses and feeders", "wire", "lay"],
  ["Size it: the lightest wire that holds", "wire", "size"],
  ["Prove it by meter", "bench", "prove"],
  ["Find a fault", "bench", "find"],
  ["Drill: find a made-up fault", "bench", "drill"],
  ["Plan of an evening", "rehearse", "plan"],
  ["Can trains wait for ever? Face to face", "rehearse", "proof"],
  ["Many evenings with faults by chance", "rehearse", "many"],
  ["Listen to the railroad: Live", "rehearse", "live"],
  ["Smallest test track", "rehearse", "first"],
  ["Plug the joints", "travel", "joints"],
  ["Set-up list", "travel", "setup"],
  ["Before the doors open", "travel", "doors"],
  ["What to buy", "book", "buy"],
  ["Labels", "book", "labels"],
  ["Change orders", "book", "orders"],
  ["Notebook", "book", "notes"],
  ["Hand over", "book", "hand"],
];

/** What can be done without naming a thing of the layout: for the find box. */
export const ACTS: readonly Act[] = [
  ["New layout…", "action", () => set({ beginning: true })],
  ["All layouts: copy, rename, compare, delete", "page", () => set({ page: "layouts" })],
  ...STEP_NAMES.map(({ key, name }): Act => [`Go to ${name}`, "step", () => set({ step: key })]),
  ["Go to Wire table", "step", () => set({ step: "table" })],
  ["Go to Quick sums", "step", () => set({ step: "sums" })],
  ...LOOK_NAMES.map(
    ([look, name, key]): Act => [
      `Look: ${name}`,
      key.toUpperCase(),
      () => set({ look, step: OF_WIRE.includes(look) ? "wire" : planStep() }),
    ],
  ),
  ["Trace a plan from a picture", "step Track", () => set({ step: "track", tool: "select" })],
  ["Divide for me", "step Zones", () => set({ step: "zones" })],
  ["Block it", "step Detect", () => set({ step: "detect" })],
  ["Signal it", "step Signal", () => set({ step: "signal" })],
  ...PLACES.map(([name, step, tab]): Act => [name, `step ${nameOf(step)}`, () => turn(step, tab)]),
  ...TOOL_GROUPS.flatMap(([, tools]) =>
    tools.map(
      ([tool, words, key]): Act => [`Tool: ${words}`, key.toUpperCase() || "tool", () => set({ step: "track", tool })],
    ),
  ),
  ["Undo", "Ctrl Z", () => void useLayout.getState().undo()],
  ["Redo", "Ctrl Shift Z", () => void useLayout.getState().redo()],
  ["Club file: copies, check, put back", "action", () => set({ club: "file" })],
  ["Helpers: let phones in", "action", () => set({ club: "helpers" })],
  ["Download a copy of the club file", "action", () => void location.assign("/api/club/backup")],
  ["Dark theme", "action", () => set({ theme: "dark" })],
  ["Light theme", "action", () => set({ theme: "light" })],
];

function nameOf(step: Step): string {
  return STEP_NAMES.find((s) => s.key === step)?.name ?? step;
}
