import { create } from "zustand";
import { answer, api, Refused, type Shape } from "../api/client";
import { SAYS } from "./words";

export type Task = Shape["TaskShape"];
export type Board = Shape["BoardShape"];
export type Done = Shape["DoneShape"];
export type State = Done["state"];
/** What a phone sends of a task; `done` is its time. */
export type Entry = {
  id: string;
  task: string;
  state: State;
  note: string;
  reading: string;
  who: string;
  done: string;
  told: string;
};
/** An entry the club's computer does not take, and why. It holds nothing else back. */
export type Aside = { entry: Entry; why: string };
const LONGEST = { note: 500, reading: 60, who: 60 };

const PATIENCE_MS = 8000;
const TRY_AGAIN_MS = 4000;

export const read = <T>(key: string, otherwise: T): T => {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") ?? otherwise;
  } catch {
    return otherwise;
  }
};
export const write = (key: string, value: unknown) => {
  try {
    localStorage.setItem(key, JSON.stringify(value));
    return true;
  } catch {
    return false;
  }
};
const pagesKey = (layout: string) => `copper.under.${layout}`;
const asideKey = (layout: string) => `copper.under.aside.${layout}`;
const waitingKey = (layout: string) => `copper.under.waiting.${layout}`;

/** An id no other entry has; a phone on the club's network gets no `randomUUID`. */
export const newId = () =>
  [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, "0")).join("");

type Under = {
  layout: string;
  pages: Shape["UnderShape"] | null;
  /** Entries the server has not taken yet, oldest first. */
  waiting: Entry[];
  /** Entries the server refused, each with its reason, until somebody mends or drops them. */
  aside: Aside[];
  /** Whether the last call came through. */
  through: boolean;
  wrong: string | null;
  who: string;
  board: string | null;
  task: string | null;
  /** Set when the club's passphrase is wanted first. */
  locked: boolean;
  open: (layout: string) => Promise<void>;
  refresh: () => Promise<void>;
  flush: () => Promise<void>;
  mark: (task: Task, state: State, note: string, reading: string) => void;
  /** Send an entry that was set aside again: as of now, and no longer than is taken. */
  mend: (id: string) => void;
  drop: (id: string) => void;
  call: (who: string) => void;
  go: (board: string | null, task: string | null) => void;
};

const patient = () => AbortSignal.timeout(PATIENCE_MS);
let sending = false;
let timer: ReturnType<typeof setInterval> | undefined;

export const useUnder = create<Under>((set, get) => {
  const failed = (error: unknown) => {
    if (error instanceof Refused && error.status === 401) set({ locked: true, through: true });
    else if (error instanceof Refused && error.status > 0 && error.status < 500)
      set({ wrong: error.message, through: true });
    else set({ through: false });
  };
  const keep = (waiting: Entry[]) => {
    const kept = write(waitingKey(get().layout), waiting);
    set({
      waiting,
      wrong: kept || !waiting.length ? null : "This phone keeps nothing: do not close the page before all is sent.",
    });
  };
  const setAside = (aside: Aside[]) => {
    const once = [...new Map(aside.map((a) => [a.entry.id, a])).values()];
    write(asideKey(get().layout), once);
    set({ aside: once });
  };
  return {
    layout: "",
    pages: null,
    waiting: [],
    aside: [],
    through: true,
    wrong: null,
    who: read("copper.under.who", ""),
    board: null,
    task: null,
    locked: false,
    open: async (asked) => {
      let layout = asked;
      if (!layout) {
        try {
          layout = (await answer(api.GET("/api/layouts", { signal: patient() })))[0]?.id ?? "";
        } catch (error) {
          failed(error);
        }
      }
      set({
        layout,
        pages: read(pagesKey(layout), null),
        waiting: read(waitingKey(layout), []),
        aside: read(asideKey(layout), []),
      });
      if (layout || !get().locked) await get().refresh();
      await get().flush();
      clearInterval(timer);
      timer = setInterval(() => {
        if (!get().locked) void (get().waiting.length || !get().through ? get().flush() : undefined);
      }, TRY_AGAIN_MS);
    },
    refresh: async () => {
      const { layout } = get();
      try {
        const path = { path: { layout_id: layout } };
        const pages = await answer(
          api.GET("/api/layouts/{layout_id}/under", { params: path, signal: AbortSignal.timeout(30_000) }),
        );
        write(pagesKey(layout), pages);
        set({ pages, through: true, locked: false });
      } catch (error) {
        failed(error);
      }
    },
    flush: async () => {
      const { layout, waiting, through } = get();
      if (sending) return;
      let taken = false;
      if (!waiting.length) {
        if (!through) await get().refresh();
        return;
      }
      sending = true;
      try {
        const sent = waiting.slice(0, 500);
        const { work, refused } = await answer(
          api.POST("/api/layouts/{layout_id}/work", {
            params: { path: { layout_id: layout } },
            body: { entries: sent },
            signal: patient(),
          }),
        );
        const bad = refused.flatMap(({ place, why }) => {
          const entry = sent[place];
          return entry ? [{ entry, why }] : [];
        });
        // First beside, then out of the queue: a phone that stops in between has it twice rather than not at all.
        if (bad.length) setAside([...get().aside, ...bad]);
        const gone = new Set(sent.map((e) => e.id));
        keep(get().waiting.filter((e) => !gone.has(e.id)));
        const pages = get().pages;
        if (pages) {
          const newer = { ...pages, work };
          write(pagesKey(layout), newer);
          set({ pages: newer });
        }
        set({ through: true });
        taken = true;
      } catch (error) {
        failed(error);
      } finally {
        sending = false;
      }
      // What was marked while the last went out goes at once, not when the clock next looks.
      if (taken && get().waiting.length) await get().flush();
    },
    mark: (task, state, note, reading) => {
      const entry: Entry = {
        id: newId(),
        task: task.key,
        state,
        note,
        reading,
        who: get().who,
        done: new Date().toISOString(),
        told: task.told,
      };
      keep([...read<Entry[]>(waitingKey(get().layout), get().waiting), entry]);
      void get().flush();
    },
    mend: (id) => {
      const found = get().aside.find((a) => a.entry.id === id);
      if (!found) return;
      const { entry } = found;
      const mended = {
        ...entry,
        id: newId(),
        note: entry.note.slice(0, LONGEST.note),
        reading: entry.reading.slice(0, LONGEST.reading),
        who: entry.who.slice(0, LONGEST.who),
        done: new Date().toISOString(),
      };
      keep([...read<Entry[]>(waitingKey(get().layout), get().waiting), mended]);
      setAside(get().aside.filter((a) => a.entry.id !== id));
      void get().flush();
    },
    drop: (id) => setAside(get().aside.filter((a) => a.entry.id !== id)),
    call: (who) => {
      write("copper.under.who", who);
      set({ who });
    },
    go: (board, task) => {
      const asked = new URLSearchParams({ layout: get().layout });
      if (board) asked.set("board", board);
      if (task) asked.set("task", task);
      history.pushState(null, "", `/under?${asked}`);
      set({ board, task });
    },
  };
});

/** What counts for each task: what the server knows, then what waits here. */
export function countingWork(pages: Shape["UnderShape"] | null, waiting: Entry[]): Map<string, Done> {
  const found = new Map<string, Done>();
  for (const done of pages?.work ?? []) found.set(done.task, done);
  for (const e of waiting)
    found.set(e.task, { ...e, note: e.note ?? "", reading: e.reading ?? "", who: e.who ?? "", told: e.told ?? "" });
  return found;
}

/** Whether a task is done as it stands now. */
export function isDone(task: Task, done: Done | undefined): boolean {
  const full = SAYS[task.kind].half !== null ? done?.state === "tested" : true;
  return done !== undefined && full && (done.state === "tested" || done.state === "wired") && done.told === task.told;
}
