import { create } from "zustand";
import type { Shape } from "../api/client";
import { keep, kept } from "./bench/kept";

export type Placed = Shape["PlacedTrain"];

const key = (layout: string) => `trains-on.${layout}`;
const keptFor = (layout: string): Placed[] => {
  try {
    return JSON.parse(kept(key(layout)) ?? "[]") as Placed[];
  } catch {
    return [];
  }
};

type TrainsOn = {
  /** The layout they are on. */
  layout: string;
  /** Trains put on the plan to look at signals by. They are this browser's, not the layout's. */
  trains: Placed[];
  /** The one the buttons drive. */
  drives: number;
  running: boolean;
  obeys: boolean;
  /** Ways given to them, which they keep until their tails have left. */
  promised: Shape["PromiseShape"][];
  /** Why the train that is driven stands, in words. */
  stopped: string | null;
  set: (part: Partial<TrainsOn>) => void;
  /** Takes up the trains that were put on another layout. */
  turnTo: (layout: string) => void;
  take: (trains: Placed[]) => void;
  put: (train: Omit<Placed, "towards">) => void;
  away: (index: number) => void;
};

export const useTrainsOn = create<TrainsOn>((set, get) => ({
  layout: "",
  trains: [],
  drives: 0,
  running: false,
  obeys: true,
  promised: [],
  stopped: null,
  set: (part) => set(part),
  turnTo: (layout) => {
    if (layout === get().layout) return;
    set({ layout, trains: keptFor(layout), drives: 0, running: false, stopped: null, promised: [] });
  },
  take: (trains) => {
    keep(key(get().layout), JSON.stringify(trains));
    set({ trains });
  },
  put: (train) => {
    const same = get().trains.filter((t) => t.name !== train.name);
    get().take([...same, { ...train, at: Math.round(train.at * 10) / 10, towards: "b" }]);
    set({ drives: same.length, stopped: null, running: false });
  },
  away: (index) => {
    get().take(get().trains.filter((_, k) => k !== index));
    set({ drives: 0, running: false, stopped: null });
  },
}));
