import type { Answers } from "../api/client";
import { useLayout } from "../store/layout";

/** Sets a turnout the next way it can lie, or turns a bridge to its next stub. Answers whether there was one to set. */
export function throwTurnout(nodes: Answers["nodes"] | undefined, id: string): boolean {
  const node = nodes?.[id];
  if (!node?.ways.length) return false;
  const { edit, state } = useLayout.getState();
  const next = node.ways[(node.ways.indexOf(node.lies) + 1) % node.ways.length];
  const table = node.kind === "turntable" || node.kind === "traverser";
  void edit(`Set ${state?.document.nodes?.[id]?.name ?? id} ${next}`, [
    { op: "replace", path: `/nodes/${id}/${table ? "points_at" : "lies"}`, value: next },
  ]);
  return true;
}
