import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { queries } from "../../api/cache";
import { answer, api, type Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { useLayout } from "../../store/layout";
import { useMe } from "../../store/me";

export type Travel = Shape["TravelShape"];
export type Tried = Shape["JointTestShape"];
type Said = Shape["ShowEntryShape"];

/** Joints, the set-up list and the proof before the doors open. */
export function useTravel() {
  const { id, revision, scene, ready } = useWhere();
  const { data: shows } = useShows();
  // What failed at shows changes the order of the proof.
  const failed = shows?.failed.map((f) => `${f.joint}:${f.times}`).join();
  return useQuery({
    queryKey: ["travel", id, revision, scene, failed],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/travel", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** What was tried at shows, and how it went. */
export function useShows() {
  const { id, ready } = useWhere();
  return useQuery({
    queryKey: ["shows", id],
    enabled: ready,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/shows", { params: { path: { layout_id: id } } })),
  });
}

/** Keeps how a test went at a show; answers why not, or null. */
export async function sayHow(show: string, day: string, what: string, state: Said["state"], note = "") {
  const id = useLayout.getState().state?.id;
  if (!id) return "No layout is open.";
  const entry: Said = {
    id: crypto.randomUUID(),
    show,
    day,
    what,
    state,
    note,
    who: useMe.getState().name,
    done: new Date().toISOString(),
  };
  try {
    const got = await answer(
      api.POST("/api/layouts/{layout_id}/shows", { params: { path: { layout_id: id } }, body: { entries: [entry] } }),
    );
    queries.setQueryData(["shows", id], got);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}
