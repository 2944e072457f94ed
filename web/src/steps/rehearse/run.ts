import type { Shape } from "../../api/client";
import { streamed } from "../../api/stream";
import { useBench } from "../../store/bench";
import { grow, type Move, newTrace, type Plan, type Trace, useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";

type Step = { opening?: Shape["OpeningShape"]; until?: number; lines?: Parameters<typeof grow>[1] };

const SAVES_MS = 40;
const SAVES_TRIES = 100;
let line: AbortController | null = null;

/** Stops working an evening out; what is known so far stays. */
export function stop() {
  line?.abort();
  line = null;
  useEvening.setState({ running: false });
}

/**
 * Runs a plan; what it tells comes in while it is worked out. `from`: the moment to go on from in the new run, still
 * playing where it played. `again`: the same evening with something else in it; the run before stays to compare.
 */
export async function run(planId: string, plan: Plan, from = 0, again = false) {
  // A change of the plan that is still being saved is part of what runs.
  for (let n = 0; useLayout.getState().saving && n < SAVES_TRIES; n++)
    await new Promise((done) => setTimeout(done, SAVES_MS));
  const state = useLayout.getState().state;
  if (!state) return;
  line?.abort();
  const mine = new AbortController();
  line = mine;
  const old = useEvening.getState();
  const before = again && old.ran && old.cameTo ? { plan: old.ran, cameTo: old.cameTo } : null;
  useEvening.setState({
    layout: state.id,
    planId,
    ran: plan,
    revision: state.revision,
    trace: null,
    cameTo: null,
    running: true,
    wrong: null,
    now: 0,
    playing: false,
    about: again && old.about?.kind !== "entry" ? old.about : null,
    before,
  });
  let trace: Trace | null = null;
  let shown = false;
  try {
    const told = (step: Step) => {
      if (mine.signal.aborted) return;
      if (step.opening) {
        trace = newTrace(step.opening);
        useEvening.setState({ trace });
      }
      if (trace && step.lines) {
        grow(trace, step.lines, step.until ?? 0);
        const { grown } = useEvening.getState();
        useEvening.setState({ grown: grown + 1 });
        if (!shown && trace.until >= from) {
          shown = true;
          useEvening.setState({ now: from, playing: from === 0 || old.playing });
        }
      }
    };
    const cameTo = await streamed<Shape["CameTo"], Step>(`/api/layouts/${state.id}/rehearse`, told, mine.signal, {
      id: planId,
      plan,
      revision: state.revision,
    });
    if (!mine.signal.aborted) useEvening.setState({ cameTo });
  } catch (error) {
    if (!mine.signal.aborted) useEvening.setState({ wrong: (error as Error).message });
  } finally {
    if (line === mine) {
      line = null;
      useEvening.setState({ running: false });
    }
  }
}

/** Runs the evening again with something that goes wrong at the moment shown; the run before stays to compare. */
export async function drop(fault: NonNullable<Plan["faults"]>[number]) {
  const { ran, planId, now } = useEvening.getState();
  if (!ran || !planId) return;
  const faults = [...(ran.faults ?? []), fault].sort((a, b) => a.seconds - b.seconds);
  await run(planId, { ...ran, faults }, Math.max(0, now - 5), true);
}

/** Has something done by hand at a moment: the evening runs again with it, from there on. */
export async function act(move: Move) {
  const { ran, planId } = useEvening.getState();
  if (!ran || !planId) return;
  const moves = [...(ran.moves ?? []), move].sort((a, b) => a.seconds - b.seconds);
  await run(planId, { ...ran, moves }, move.seconds, true);
}

/** Goes to a moment and shows where it is. */
export function goTo(t: number, track?: string | null, at?: number | null) {
  const evening = useEvening.getState();
  evening.set({ playing: false });
  evening.seek(Math.max(0, t - 0.5));
  if (track && at !== null && at !== undefined) useBench.getState().show(null, { track, at });
}
