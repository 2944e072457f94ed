import type { Layout } from "../api/client";
import { useLayout } from "../store/layout";

const WAYS: Record<string, readonly string[]> = {
  turnout: ["through", "diverging"],
  "three-way": ["left", "through", "right"],
};

/** Sets a turnout the next way it can lie. Answers whether there was one to set. */
export function throwTurnout(layout: Layout | undefined, id: string, wanted: boolean): boolean {
  const node = layout?.nodes?.[id];
  const ways = node ? WAYS[node.kind] : undefined;
  if (!wanted || !node || !ways) return false;
  const next = ways[(ways.indexOf(node.lies ?? "through") + 1) % ways.length] ?? "through";
  void useLayout
    .getState()
    .edit(`Set ${node.name ?? id} ${next}`, [{ op: "replace", path: `/nodes/${id}/lies`, value: next }]);
  return true;
}
