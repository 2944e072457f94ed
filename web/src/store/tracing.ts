import { create } from "zustand";
import { answer, api, type Shape } from "../api/client";
import { streamed } from "../api/stream";
import { useBench } from "./bench";
import { useLayout } from "./layout";

export type Traced = Shape["TracedShape"];
export type TracedLine = Shape["TracedLine"];
export type CrossingKind = Shape["TracedCrossing"]["kind"];
type Box = [number, number, number, number];
type Use = Shape["TakeAsked"]["use"];

/** A picture being traced: what was found, and what somebody put right of it. Nothing of it is saved before it is taken. */
type Tracing = {
  found: Traced | null;
  /** Lines turned over by hand: out where they were proposed, in where they were left out. */
  flipped: ReadonlySet<number>;
  /** What crossings are where somebody said so, by their place in the list. */
  crossings: Readonly<Record<number, CrossingKind>>;
  inks: number[] | null;
  uses: Readonly<Record<number, Use>>;
  /** Shortest line kept, mm; null for a usual one. */
  shortest: number | null;
  only: Box | null;
  leave: Box[];
  drawn: "by itself" | "one line";
  doing: string | null;
  wrong: string | null;
  set: (part: Partial<Tracing>) => void;
  trace: () => Promise<void>;
  stop: () => void;
  flip: (line: number) => void;
  pass: (crossing: number) => void;
  take: () => Promise<string | null>;
  forget: () => void;
};

const NOTHING = { found: null, flipped: new Set<number>(), crossings: {}, doing: null, wrong: null };
const KINDS = ["crossing", "slip", "over"] as const;
let asking: AbortController | null = null;

const turned = (some: ReadonlySet<number>, one: number) => {
  const now = new Set(some);
  if (!now.delete(one)) now.add(one);
  return now;
};

export const useTracing = create<Tracing>((set, get) => ({
  ...NOTHING,
  inks: null,
  uses: {},
  shortest: null,
  only: null,
  leave: [],
  drawn: "by itself",
  set: (part) => set(part),
  trace: async () => {
    const id = useLayout.getState().state?.id;
    if (!id) return;
    asking?.abort();
    const mine = new AbortController();
    asking = mine;
    set({ doing: "Beginning", wrong: null });
    const { inks, shortest, only, leave, drawn } = get();
    try {
      const found = await streamed<Traced, { doing?: string }>(
        `/api/layouts/${id}/trace`,
        (step) => set({ doing: step.doing ?? null }),
        mine.signal,
        { inks, shortest, only, leave, drawn },
      );
      if (asking === mine) set({ ...NOTHING, found });
    } catch (error) {
      if (asking === mine) set({ doing: null, wrong: mine.signal.aborted ? null : (error as Error).message });
    }
  },
  stop: () => {
    asking?.abort();
    set({ doing: null });
  },
  flip: (line) => set({ flipped: turned(get().flipped, line) }),
  pass: (crossing) => {
    const now = KINDS.indexOf(get().crossings[crossing] ?? "crossing");
    set({ crossings: { ...get().crossings, [crossing]: KINDS[(now + 1) % KINDS.length] ?? "crossing" } });
  },
  take: async () => {
    const { state, settle } = useLayout.getState();
    const { found, crossings, uses } = get();
    if (!state || !found) return "Nothing is traced.";
    const lines = chosen(get()).map((l) => ({ ...l, d: "" }));
    if (!lines.length) return "No line is chosen: click the lines that are track.";
    try {
      const taken = await answer(
        api.POST("/api/layouts/{layout_id}/trace/take", {
          params: { path: { layout_id: state.id }, query: { scene: useBench.getState().scene } },
          body: {
            lines,
            crossings: found.crossings.map((c, k) => ({ ...c, kind: crossings[k] ?? c.kind })),
            tables: found.tables,
            use: useBench.getState().like.use as Use,
            uses: uses as Record<string, Use>,
            code: useBench.getState().like.code,
          },
        }),
      );
      settle(taken.changed);
      set(NOTHING);
      useBench.getState().set({ note: taken.words, tool: "select" });
      return null;
    } catch (error) {
      return (error as Error).message;
    }
  },
  forget: () => {
    asking?.abort();
    set(NOTHING);
  },
}));

/** Whether a line will be track. */
export const isIn = (line: TracedLine, flipped: ReadonlySet<number>) => (line.why === "") !== flipped.has(line.number);

/** The lines that will be track. */
export const chosen = ({ found, flipped }: Pick<Tracing, "found" | "flipped">) =>
  (found?.lines ?? []).filter((l) => isIn(l, flipped));
