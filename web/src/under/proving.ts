import { create } from "zustand";
import { answer, api, type Shape } from "../api/client";
import { outbox } from "./outbox";
import { newId, read, useUnder, write } from "./store";

export type Test = Shape["TestShape"];
/** A reading as it is sent; sent twice it is kept once. */
export type Kept = { id: string; test: string; shown: string; amps: number | null; who: string; done: string };
type Judged = { shown: string; sound: boolean | null; words: string };

const TRY_AGAIN_MS = 4000;
const testsKey = (layout: string) => `copper.prove.${layout}`;
const waitingKey = (layout: string) => `copper.prove.waiting.${layout}`;

type Proving = {
  bench: Shape["BenchShape"] | null;
  /** Readings the club's computer has not taken yet, oldest first. */
  waiting: Kept[];
  /** What was said of the readings sent from here, by test. */
  judged: Record<string, Judged>;
  through: boolean;
  open: () => Promise<void>;
  keep: (test: Test, shown: string, amps: number | null) => void;
  flush: () => Promise<void>;
};

let timer: ReturnType<typeof setInterval> | undefined;
const readings = outbox<Kept>(waitingKey, async (layout, sent, signal) => {
  const got = await answer(
    api.POST("/api/layouts/{layout_id}/readings", {
      params: { path: { layout_id: layout } },
      body: { readings: sent },
      signal,
    }),
  );
  const judged = { ...useProvingUnder.getState().judged };
  for (const r of got.readings) judged[r.test] = { shown: r.shown, sound: r.sound, words: r.verdict };
  for (const r of got.refused) {
    const entry = sent[r.place];
    if (entry) judged[entry.test] = { shown: entry.shown, sound: null, words: `Not taken: ${r.why}` };
  }
  useProvingUnder.setState({ judged });
});

/** Proving from a phone: tests kept for when there is no connection, readings kept until they are taken. */
export const useProvingUnder = create<Proving>((set, get) => ({
  bench: null,
  waiting: [],
  judged: {},
  through: true,
  open: async () => {
    const { layout } = useUnder.getState();
    set({ bench: read(testsKey(layout), null), waiting: readings.waiting(layout) });
    try {
      const path = { path: { layout_id: layout } };
      const bench = await answer(
        api.GET("/api/layouts/{layout_id}/bench", { params: path, signal: AbortSignal.timeout(30_000) }),
      );
      write(testsKey(layout), bench);
      set({ bench, through: true });
    } catch {
      set({ through: false });
    }
    await get().flush();
    clearInterval(timer);
    timer = setInterval(() => void (get().waiting.length ? get().flush() : undefined), TRY_AGAIN_MS);
  },
  keep: (test, shown, amps) => {
    const { layout, who } = useUnder.getState();
    const kept = { id: newId(), test: test.key, shown, amps, who, done: new Date().toISOString() };
    const waiting = readings.add(layout, kept, get().waiting);
    set({
      waiting,
      judged: {
        ...get().judged,
        [test.key]: { shown, sound: null, words: "Kept on this phone; judged once it is sent." },
      },
    });
    void get().flush();
  },
  flush: async () => {
    const done = await readings.flush(useUnder.getState().layout, () => get().waiting);
    if (done) set({ waiting: done.left, through: done.wrong === null });
  },
}));
