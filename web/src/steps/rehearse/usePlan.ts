import type { Operation } from "../../api/client";
import { useBench } from "../../store/bench";
import { type Plan, useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";

/** The plan in hand: the one last run, else the first of the layout. */
export function usePlan(): { id: string; plan: Plan } | null {
  const plans = useLayout((s) => s.state?.document.plans) as Record<string, Plan> | undefined;
  const chosen = useEvening((s) => s.planId);
  const id = chosen && plans?.[chosen] ? chosen : Object.keys(plans ?? {})[0];
  const plan = id ? plans?.[id] : undefined;
  return id && plan ? { id, plan } : null;
}

/** Changes something in a plan; answers why not, or null. */
export function changePlan(id: string, words: string, path: string, value: unknown) {
  const patch: Operation[] = [{ op: "add", path: `/plans/${id}${path}`, value }];
  return useLayout.getState().edit(words, patch, true);
}

export const trackName = (track: string) => useLayout.getState().state?.document.tracks?.[track]?.name ?? track;
export const say = (words: string) => useBench.getState().set({ note: words });
