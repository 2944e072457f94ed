import { useEffect } from "react";
import type { Answers, Layout, Operation } from "../api/client";
import { useAnswers } from "../api/queries";
import { along, pathOf } from "../plan/geometry";
import { useBench } from "../store/bench";
import { NO_GHOSTS } from "../store/bench/proposed";
import { useLayout } from "../store/layout";

type Spot = { x: number; y: number };
type Value = Record<string, unknown>;

/** Where a new thing would stand; null where the plan cannot say. */
function spotOf(map: string, value: Value, answers: Answers, layout: Layout): Spot | null {
  const on = (drawn: Answers["tracks"][string] | undefined, at: unknown): Spot | null => {
    if (!drawn || typeof at !== "number") return null;
    const [x, y] = along(drawn, at);
    return { x, y };
  };
  if (["gaps", "feeders", "signals", "sections"].includes(map))
    return on(answers.tracks[String(value.track)], value.at);
  if (map === "terminals" || map === "plugs") return on(answers.runs[String(value.run)], value.along);
  const at = value.at as Spot | undefined;
  return at && typeof at === "object" && layout ? { x: at.x, y: at.y } : null;
}

/** Where a thing stands that is there already. */
function standing(map: string, id: string, answers: Answers, layout: Layout): { spot?: Spot; line?: string } {
  const drawn = map === "tracks" ? answers.tracks[id] : map === "runs" ? answers.runs[id] : undefined;
  if (drawn) return { line: pathOf(drawn) };
  const f = map === "feeders" ? answers.feeders[id] : undefined;
  if (f) return { line: `M${f.x1} ${f.y1}L${f.x2} ${f.y2}` };
  const at =
    map === "gaps"
      ? answers.gaps[id]
      : map === "terminals"
        ? answers.terminals[id]
        : map === "nodes"
          ? answers.nodes[id]
          : map === "devices"
            ? layout.devices?.[id]?.at
            : undefined;
  return at ? { spot: { x: at.x, y: at.y } } : {};
}

/** Inks on the plan what a change would do there, for as long as it is looked at. */
export function useInked(patch: Operation[]) {
  const { data: answers } = useAnswers();
  const layout = useLayout((s) => s.state?.document);
  useEffect(() => {
    if (!answers || !layout) return;
    const spots: Spot[] = [];
    const lines: { d: string }[] = [];
    for (const { op, path, value } of patch) {
      const [map = "", id = "", field] = path.split("/").slice(1);
      if (op === "add" && field === undefined && value && typeof value === "object") {
        const spot = spotOf(map, value as Value, answers, layout);
        if (spot) spots.push(spot);
      } else {
        const { spot, line } = standing(map, id, answers, layout);
        if (spot) spots.push(spot);
        if (line) lines.push({ d: line });
      }
    }
    useBench.setState({ ghostMarks: { spots, lines } });
    return () => useBench.setState({ ghostMarks: NO_GHOSTS.ghostMarks });
  }, [patch, answers, layout]);
}
