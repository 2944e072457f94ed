import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** Who drives what, as selectors lie in the chosen scene. */
export function useCabs(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["cabs", id, revision, scene],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/cabs", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** Throws a selector to one of its circuits, or off with null; in a scene that says how selectors lie, there. */
export async function throwTo(device: string, to: string | null) {
  const { draw, state } = useLayout.getState();
  const scene = useBench.getState().scene;
  const said = scene ? state?.document.scenes?.[scene]?.selectors : undefined;
  const { why } = await draw({ act: "throw", device, to, scene: said && Object.keys(said).length ? scene : null });
  useBench.getState().set({ note: why });
}

/** The next way a selector lies: off, then each of its circuits in turn. */
export function throwOn(selector: Shape["SelectorShape"]) {
  const ways = [null, ...selector.ways.map((w) => w.circuit)];
  const next = ways[(ways.indexOf(selector.lies ?? null) + 1) % ways.length] ?? null;
  return throwTo(selector.device, next);
}
