import { useCallback, useEffect, useMemo, useState } from "react";
import type { Answers, Layout } from "../../api/client";
import { type Thing, useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { catchAt } from "./caught";
import { type Caught, type Ctx, type Ghost, TOOLS, type ToolName } from "./index";

type Where = { x: number; y: number; mmPerPx: number };

/** Runs the chosen tool's state machine on the plan: presses and moves in, ghosts and acts out. */
export function useTool(active: boolean, answers: Answers | undefined, layout: Layout | undefined) {
  const name = useBench((s) => s.tool);
  const like = useBench((s) => s.like);
  const frog = useBench((s) => s.frog);
  const bridge = useBench((s) => s.bridge);
  const tool = active ? TOOLS[name] : undefined;
  // A state belongs to the tool that made it: another tool in hand begins at its own start.
  const [held, setHeld] = useState<{ name: ToolName; state: unknown }>({ name, state: tool?.start });
  const state = held.name === name ? held.state : tool?.start;
  const setState = useCallback((next: unknown) => setHeld({ name, state: next }), [name]);

  const ctx: Ctx | null = useMemo(
    () =>
      layout && answers
        ? { layout, metric: layout.brief?.units === "metric", least: answers.least_radius, like, frog, bridge }
        : null,
    [layout, answers, like, frog, bridge],
  );
  const tables = useMemo(() => tablesOf(layout), [layout]);

  const hint = tool ? tool.hint(state) : null;
  useEffect(() => useBench.setState({ hint }), [hint]);

  const take = useCallback(
    (outcome: { state: unknown; act?: unknown; say?: string }) => {
      setState(outcome.state);
      if (outcome.say) useBench.getState().set({ note: outcome.say });
      if (outcome.act)
        void useLayout
          .getState()
          .draw(outcome.act as never)
          .then(({ made }) => {
            if (made) useBench.setState({ selected: made as Thing, chosen: [made as Thing], lit: [], bend: null });
          });
    },
    [setState],
  );

  const at = (where: Where): Caught =>
    answers && layout && tool ? catchAt(answers, where, tool.catches, layout.devices ?? {}, tables) : where;

  return {
    tool,
    ghosts: (tool?.ghost && ctx ? tool.ghost(state, ctx) : []) as Ghost[],
    press: (where: Where) => tool && ctx && take(tool.press(state, at(where), ctx)),
    move: (where: Where) => tool?.move && setState(tool.move(state, at(where))),
    finish: () => tool?.finish && ctx && take(tool.finish(state, ctx)),
    back: () => tool?.back && setState(tool.back(state)),
    cancel: () => {
      const idle = !tool || state === tool.start || JSON.stringify(state) === JSON.stringify(tool.start);
      const empty = (state as { spots?: unknown[]; corners?: unknown[]; points?: unknown[] }) ?? {};
      const begun = (empty.spots ?? empty.corners ?? empty.points ?? []).length > 0;
      if (tool && begun) setState(tool.start);
      else if (!idle || tool) useBench.getState().set({ tool: "select", note: null });
    },
  };
}

/** Tables by id with the size of their pit or bridge. */
export function tablesOf(layout: Layout | undefined): Record<string, number> {
  const found: Record<string, number> = {};
  for (const [id, n] of Object.entries(layout?.nodes ?? {}))
    if (n.kind === "turntable" || n.kind === "traverser") found[id] = n.diameter ?? 300;
  return found;
}
