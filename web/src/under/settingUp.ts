import { create } from "zustand";
import { answer, api, type Shape } from "../api/client";
import { today } from "../parts/when";
import { outbox } from "./outbox";
import { newId, read, useUnder, write } from "./store";

export type Tried = Shape["JointTestShape"];
type Said = Shape["ShowEntryShape"];

const TRY_AGAIN_MS = 4000;
const listKey = (layout: string) => `copper.setup.${layout}`;
const saidKey = (layout: string) => `copper.setup.said.${layout}`;
const waitingKey = (layout: string) => `copper.setup.waiting.${layout}`;
const showKey = (layout: string) => `copper.setup.show.${layout}`;

type SettingUp = {
  list: Shape["TravelShape"] | null;
  show: string;
  day: string;
  /** What the club's computer knows, and then what waits on this phone. */
  said: Said[];
  waiting: Said[];
  through: boolean;
  wrong: string | null;
  open: () => Promise<void>;
  name: (show: string) => void;
  say: (test: Tried, state: Said["state"], note?: string) => void;
  flush: () => Promise<void>;
};

let timer: ReturnType<typeof setInterval> | undefined;
const ticks = outbox<Said>(waitingKey, async (layout, entries, signal) => {
  const got = await answer(
    api.POST("/api/layouts/{layout_id}/shows", { params: { path: { layout_id: layout } }, body: { entries }, signal }),
  );
  write(saidKey(layout), got.entries);
  useSettingUp.setState({ said: got.entries });
});

/** Setting up from a phone in the hall: the list kept for when there is no connection, ticks kept until they are taken. */
export const useSettingUp = create<SettingUp>((set, get) => ({
  list: null,
  show: "",
  day: today(),
  said: [],
  waiting: [],
  through: true,
  wrong: null,
  open: async () => {
    const { layout } = useUnder.getState();
    set({
      list: read(listKey(layout), null),
      said: read(saidKey(layout), []),
      waiting: ticks.waiting(layout),
      show: read(showKey(layout), ""),
    });
    try {
      const path = { path: { layout_id: layout }, signal: AbortSignal.timeout(30_000) };
      const [list, shows] = await Promise.all([
        answer(api.GET("/api/layouts/{layout_id}/travel", { params: path, signal: path.signal })),
        answer(api.GET("/api/layouts/{layout_id}/shows", { params: path, signal: path.signal })),
      ]);
      write(listKey(layout), list);
      write(saidKey(layout), shows.entries);
      set({ list, said: shows.entries, through: true });
    } catch {
      set({ through: false });
    }
    await get().flush();
    clearInterval(timer);
    timer = setInterval(() => void (get().waiting.length ? get().flush() : undefined), TRY_AGAIN_MS);
  },
  name: (show) => {
    write(showKey(useUnder.getState().layout), show);
    set({ show });
  },
  say: (test, state, note = "") => {
    const { layout, who } = useUnder.getState();
    const { show, day } = get();
    const entry: Said = {
      id: newId(),
      show: show.trim(),
      day,
      what: test.key,
      state,
      note: note.slice(0, 500),
      who,
      done: new Date().toISOString(),
    };
    set({ waiting: ticks.add(layout, entry, get().waiting) });
    void get().flush();
  },
  flush: async () => {
    const done = await ticks.flush(useUnder.getState().layout, () => get().waiting);
    if (done) set({ waiting: done.left, through: done.wrong === null, wrong: done.wrong });
  },
}));

/** How a test went at a show, by what is known and what waits; null where nobody said. */
export function howItWent(
  { said, waiting, show, day }: Pick<SettingUp, "said" | "waiting" | "show" | "day">,
  test: string,
) {
  const mine = (e: Said) => e.what === test && e.show === show.trim() && e.day === day;
  const last = [...waiting].reverse().find(mine) ?? said.find(mine);
  return last && last.state !== "open" ? last : null;
}
