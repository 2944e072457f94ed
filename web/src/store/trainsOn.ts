import { create } from "zustand";
import type { Shape } from "../api/client";

export type Placed = Shape["PlacedTrain"];

const KEY = "copper.trains-on";
const kept = (): Placed[] => {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "[]") as Placed[];
  } catch {
    return [];
  }
};

type TrainsOn = {
  /** Trains put on the plan to look at signals by. They are this browser's, not the layout's. */
  trains: Placed[];
  /** The one the buttons drive. */
  drives: number;
  running: boolean;
  obeys: boolean;
  /** Why the train that is driven stands, in words. */
  stopped: string | null;
  set: (part: Partial<TrainsOn>) => void;
  take: (trains: Placed[]) => void;
  put: (train: Omit<Placed, "towards">) => void;
  away: (index: number) => void;
};

export const useTrainsOn = create<TrainsOn>((set, get) => ({
  trains: kept(),
  drives: 0,
  running: false,
  obeys: true,
  stopped: null,
  set: (part) => set(part),
  take: (trains) => {
    try {
      localStorage.setItem(KEY, JSON.stringify(trains));
    } catch {
      // A browser that keeps nothing forgets the trains; the layout does not depend on them.
    }
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
