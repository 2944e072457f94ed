import { queries } from "../../api/cache";
import { answer, api } from "../../api/client";
import { useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { useMe } from "../../store/me";
import { say } from "./usePlan";

/** Keeps the rehearsal that is shown beside the layout, as it ran. */
export async function keepIt() {
  const { ran, planId, cameTo, revision } = useEvening.getState();
  const id = useLayout.getState().state?.id;
  if (!ran || !planId || !cameTo || !id) return;
  try {
    const got = await answer(
      api.POST("/api/layouts/{layout_id}/rehearsals", {
        params: { path: { layout_id: id } },
        body: {
          id: planId,
          plan: ran,
          revision,
          record: crypto.randomUUID(),
          sentences: cameTo.sentences,
          who: useMe.getState().name ?? "",
        },
      }),
    );
    queries.setQueryData(["rehearsals", id], got);
    say("Kept, in the tab Kept.");
  } catch (error) {
    say((error as Error).message);
  }
}
