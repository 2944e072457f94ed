import { create } from "zustand";
import type { ToolName } from "../plan/tools/kinds";

/** What is on the bench just now: nothing here is saved with the layout. */
export type Look = "track" | "volts" | "coin" | "phase" | "reversing" | "zones" | "blocks" | "signals";
export type Step =
  | "brief"
  | "track"
  | "trains"
  | "zones"
  | "wire"
  | "table"
  | "reverse"
  | "detect"
  | "signal"
  | "book"
  | "sums";
export type Kind =
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
export type Thing = { kind: Kind; id: string };
export type Place = { track: string; at: number };

type Bench = {
  look: Look;
  step: Step;
  scene: string | null;
  theme: "light" | "dark";
  selected: Thing | null;
  /** Everything chosen for the next move, change or removal; holds the selected thing too. */
  chosen: Thing[];
  tool: ToolName;
  /** What newly drawn track is made of. */
  like: { use: string; code: number; metal: string; joiner_every: number | null; joiners: string };
  frog: "dead" | "live" | "routing";
  /** How the bridge of the next table is fed; null until somebody says. */
  bridge: "split ring" | "aligned stub" | "reverser" | null;
  /** A bend of a track picked by its handle. */
  bend: { track: string; index: number } | null;
  /** Two places on the backdrop whose distance is known. */
  measure: { x: number; y: number }[];
  /** Doublings of pixels per mm, in halves: what must keep its width on screen is drawn anew when it changes. */
  bucket: number;
  /** Gaps of a proposal that is looked at. */
  ghostGaps: { x: number; y: number }[];
  /** Signals of a proposal that is looked at. */
  ghostHeads: { x: number; y: number; degrees: number; words: string }[];
  /** Track inked as a proposal would have it. */
  ghostInks: { track: string; start: number; end: number; ink: string }[];
  /** What the next click on the plan puts there: a new supply, or a load that was only counted. */
  placing:
    | { what: "supply" }
    | { what: "load"; id: string }
    | { what: "train"; train: string | null; name: string }
    | null;
  /** The circuit that track is being painted into. */
  paint: string | null;
  /** What the tool in hand wants next. */
  hint: string | null;
  /** What the last act had to say. */
  note: string | null;
  picked: Place | null;
  lit: string[];
  /** The very rails that prove a finding. */
  litRails: { track: string; start: number; end: number; side: string }[];
  /** Counts requests to bring a thing into view; the plan answers each once. */
  showing: { thing: Thing | null; place: Place | null; count: number };
  finding: string | null;
  finder: boolean;
  /** The dialog of the club file and its helpers: which side of it is open. */
  club: "file" | "helpers" | null;
  set: (part: Partial<Bench>) => void;
  select: (thing: Thing | null) => void;
  /** Adds a thing to the chosen ones, or takes it out. */
  choose: (thing: Thing) => void;
  chooseAll: (things: Thing[]) => void;
  show: (thing: Thing | null, place: Place | null, lit?: string[]) => void;
};

const kept = (key: string) => {
  try {
    return localStorage.getItem(`copper.${key}`);
  } catch {
    return null;
  }
};
const keep = (key: string, value: string) => {
  try {
    localStorage.setItem(`copper.${key}`, value);
  } catch {
    // A browser that keeps nothing still works; it forgets the theme.
  }
};
const LOOKS = ["track", "volts", "coin", "phase", "reversing", "zones", "blocks", "signals"];
const STEPS = ["brief", "track", "trains", "zones", "wire", "table", "reverse", "detect", "signal", "book", "sums"];
const oneOf = <T extends string>(value: string | null, all: string[], otherwise: T) =>
  value && all.includes(value) ? (value as T) : otherwise;

export const useBench = create<Bench>((set) => ({
  look: oneOf<Look>(kept("look"), LOOKS, "volts"),
  step: oneOf<Step>(location.hash.slice(1), STEPS, "wire"),
  scene: kept("scene"),
  theme: oneOf<"light" | "dark">(
    kept("theme"),
    ["light", "dark"],
    matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light",
  ),
  selected: null,
  chosen: [],
  tool: "select",
  like: { use: "main", code: 83, metal: "nickel silver", joiner_every: 914.4, joiners: "usual" },
  frog: "live",
  bridge: null,
  bend: null,
  measure: [],
  bucket: 0,
  ghostGaps: [],
  ghostHeads: [],
  ghostInks: [],
  placing: null,
  paint: null,
  hint: null,
  note: null,
  picked: null,
  lit: [],
  litRails: [],
  showing: { thing: null, place: null, count: 0 },
  finding: null,
  finder: false,
  club: null,
  set: (part) => {
    for (const key of ["look", "scene", "theme"] as const) if (part[key]) keep(key, part[key]);
    if (part.step) history.replaceState(null, "", `#${part.step}`);
    set(part);
  },
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
      const chosen = has ? s.chosen.filter((c) => c.kind !== thing.kind || c.id !== thing.id) : [...s.chosen, thing];
      return { chosen, selected: chosen[chosen.length - 1] ?? null, lit: chosen.map((c) => c.id), bend: null };
    }),
  chooseAll: (chosen) =>
    set({
      chosen,
      selected: chosen.length === 1 ? (chosen[0] ?? null) : null,
      lit: chosen.map((c) => c.id),
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
}));
