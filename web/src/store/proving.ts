import { create } from "zustand";
import { persist } from "zustand/middleware";

/** What is in hand on the bench: the test chosen, the hunt that goes on, the drill with what was tried. Kept over a reload. */
export type Proving = {
  test: string | null;
  hunt: string | null;
  drill: { layout: string; seed: number; hardness: "easy" | "fair" | "hard"; tried: string[] } | null;
  meter: string;
  /** Which tests are listed, of which board, and since which change they are told as touched. */
  which: string;
  board: string;
  since: number | null;
  set: (part: Partial<Omit<Proving, "set">>) => void;
};

export const useProving = create<Proving>()(
  persist(
    (set) => ({
      test: null,
      hunt: null,
      drill: null,
      meter: "",
      which: "must",
      board: "",
      since: null,
      set: (part) => set(part),
    }),
    {
      name: "copper.proving",
    },
  ),
);

/** An id for a row this page makes: sent twice it is kept once. */
export const newId = (what: string) => `${what}-${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`;

const LEVELS = ["easy", "fair", "hard"] as const;
/** The drill a link led to, read before the page writes its own address. */
const [seed, level] = (new URLSearchParams(location.search).get("drill") ?? "").split("-");
let linked =
  seed && /^\d{1,6}$/.test(seed) ? { seed: Number(seed), hardness: LEVELS.find((l) => l === level) ?? "fair" } : null;

/** Takes up the drill of the link, once. */
export function linkedDrill() {
  const found = linked;
  linked = null;
  return found;
}
