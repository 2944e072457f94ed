import { create } from "zustand";
import { type Chosen, chosen } from "./bench/chosen";
import { type Looking, looking, withLook } from "./bench/looking";
import { type Proposed, proposed } from "./bench/proposed";
import { type Tool, tool } from "./bench/tool";

export type { Kind, Place, Thing } from "./bench/chosen";
export type { Look, Step } from "./bench/looking";
export type { Proof } from "./bench/proposed";

/** What is on the bench just now, by concern; nothing here is saved with the layout. */
export type Bench = Chosen & Looking & Tool & Proposed & { set: (part: Partial<Bench>) => void };

export const useBench = create<Bench>((set) => ({
  ...chosen(set),
  ...looking(set),
  ...tool(set),
  ...proposed(set),
  set: (part) => set((now) => ({ ...withLook(now, part), ...part })),
}));

/** The tab of the step at hand, with the way to turn to another. */
export function useTab<T extends string>(tabs: readonly (readonly [T, string])[]): [T, (tab: T) => void] {
  const step = useBench((s) => s.step);
  const open = useBench((s) => s.tabs[step]);
  const names = tabs.map(([name]) => name);
  const tab = names.includes(open as T) ? (open as T) : (names[0] as T);
  const turn = (to: T) => useBench.setState((s) => ({ tabs: { ...s.tabs, [step]: to } }));
  return [tab, turn];
}
