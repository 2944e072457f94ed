import { create } from "zustand";

/** What is on the bench just now: nothing here is saved with the layout. */
export type Look = "track" | "volts" | "coin";
export type Step = "brief" | "wire" | "table" | "sums";
export type Kind = "track" | "run" | "feeder" | "terminal" | "device" | "gap" | "board" | "plug";
export type Thing = { kind: Kind; id: string };
export type Place = { track: string; at: number };

type Bench = {
  look: Look;
  step: Step;
  scene: string | null;
  theme: "light" | "dark";
  selected: Thing | null;
  picked: Place | null;
  lit: string[];
  /** Counts requests to bring a thing into view; the plan answers each once. */
  showing: { thing: Thing | null; place: Place | null; count: number };
  finding: string | null;
  finder: boolean;
  set: (part: Partial<Bench>) => void;
  select: (thing: Thing | null) => void;
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
const LOOKS = ["track", "volts", "coin"];
const STEPS = ["brief", "wire", "table", "sums"];
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
  picked: null,
  lit: [],
  showing: { thing: null, place: null, count: 0 },
  finding: null,
  finder: false,
  set: (part) => {
    for (const key of ["look", "scene", "theme"] as const) if (part[key]) keep(key, part[key]);
    if (part.step) history.replaceState(null, "", `#${part.step}`);
    set(part);
  },
  select: (thing) => set({ selected: thing, lit: thing ? [thing.id] : [], finding: null }),
  show: (thing, place, lit) =>
    set((s) => ({
      selected: thing,
      picked: place ?? s.picked,
      lit: lit ?? (thing ? [thing.id] : []),
      showing: { thing, place, count: s.showing.count + 1 },
    })),
}));
