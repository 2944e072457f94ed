import type { Slice } from "./slice";

/** What is chosen on the plan, and what is lit for it. */
export type Kind =
  | "braking"
  | "isolated"
  | "track"
  | "run"
  | "feeder"
  | "terminal"
  | "device"
  | "gap"
  | "board"
  | "obstacle"
  | "plug"
  | "node"
  | "section"
  | "load"
  | "signal"
  | "detector"
  | "driver";
/** The map of the document that holds things of a kind. */
export const mapOf = (kind: string) => (kind === "braking" || kind === "isolated" ? kind : `${kind}s`);
export type Thing = { kind: Kind; id: string };
export type Place = { track: string; at: number };

export type Chosen = {
  selected: Thing | null;
  /** Everything chosen for the next move, change or removal; holds the selected thing too. */
  chosen: Thing[];
  /** A bend of a track picked by its handle. */
  bend: { track: string; index: number } | null;
  picked: Place | null;
  lit: string[];
  /** The very rails that prove a finding. */
  litRails: { track: string; start: number; end: number; side: string }[];
  /** Counts requests to bring a thing into view; the plan answers each once. */
  showing: { thing: Thing | null; place: Place | null; spot?: { x: number; y: number }; count: number };
  finding: string | null;
  select: (thing: Thing | null) => void;
  /** Adds a thing to the chosen ones, or takes it out. */
  choose: (thing: Thing) => void;
  chooseAll: (things: Thing[]) => void;
  show: (thing: Thing | null, place: Place | null, lit?: string[]) => void;
};

/** Nothing chosen. */
export const NONE = { selected: null, chosen: [], bend: null, picked: null, lit: [], litRails: [], finding: null };

export const chosen: Slice<Chosen> = (set) => ({
  ...NONE,
  showing: { thing: null, place: null, count: 0 },
  select: (thing) =>
    set({
      selected: thing,
      chosen: thing ? [thing] : [],
      lit: thing ? [thing.id] : [],
      litRails: [],
      finding: null,
      bend: null,
    }),
  choose: (thing) =>
    set((s) => {
      const has = s.chosen.some((c) => c.kind === thing.kind && c.id === thing.id);
      const all = has ? s.chosen.filter((c) => c.kind !== thing.kind || c.id !== thing.id) : [...s.chosen, thing];
      return { chosen: all, selected: all[all.length - 1] ?? null, lit: all.map((c) => c.id), bend: null };
    }),
  chooseAll: (all) =>
    set({
      chosen: all,
      selected: all.length === 1 ? (all[0] ?? null) : null,
      lit: all.map((c) => c.id),
      bend: null,
    }),
  show: (thing, place, lit) =>
    set((s) => ({
      selected: thing,
      chosen: thing ? [thing] : [],
      bend: null,
      litRails: [],
      picked: place ?? s.picked,
      lit: lit ?? (thing ? [thing.id] : []),
      showing: { thing, place, count: s.showing.count + 1 },
    })),
});
