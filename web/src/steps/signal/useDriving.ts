import { useEffect } from "react";
import { queries } from "../../api/cache";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { useTrainsOn } from "../../store/trainsOn";

const TICK_MS = 160;
const STEP_MM = 60;

/** Drives the train that is chosen while it runs: a step, the answer, the next step. */
export function useDriving() {
  const { id, revision, scene } = useWhere();
  const { running, set, take } = useTrainsOn();

  const step = async (distance: number, turn = false) => {
    const { trains, drives, obeys, promised } = useTrainsOn.getState();
    if (!trains[drives]) return false;
    try {
      const got = await answer(
        api.POST("/api/layouts/{layout_id}/moment/drive", {
          params: { path: { layout_id: id }, query: { revision, scene } },
          body: { trains, drives, distance, obeys, turn, promised },
        }),
      );
      // The answer is the moment of the new places: nobody need ask for it again.
      queries.setQueryData(["moment", id, revision, got.trains], got);
      take(got.trains);
      set({ stopped: got.stopped ?? null, promised: got.promised });
      return got.stopped === null;
    } catch (error) {
      set({ stopped: (error as Error).message, running: false });
      return false;
    }
  };

  // biome-ignore lint/correctness/useExhaustiveDependencies: one loop for one run; what it reads it reads fresh
  useEffect(() => {
    if (!running) return;
    let on = true;
    let timer = 0;
    const go = async () => {
      await step(STEP_MM);
      // It waits at a stop, as a driver would, and goes on by itself when the signal clears.
      if (on) timer = window.setTimeout(() => void go(), TICK_MS);
    };
    void go();
    return () => {
      on = false;
      clearTimeout(timer);
    };
  }, [running, id, revision]);

  return { step };
}
