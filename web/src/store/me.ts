import { create } from "zustand";
import { keep, kept } from "./bench/kept";

/** Who works at this window, and who else has the layout open. The name is asked once and stands on every change. */
type Me = {
  name: string;
  /** Whether the name was asked for and left empty. */
  asked: boolean;
  others: string[];
  /** What somebody else changed last. */
  news: string | null;
  call: (name: string) => void;
  set: (part: Partial<Me>) => void;
};

export const useMe = create<Me>((set) => ({
  name: kept("name") ?? "",
  asked: kept("name") !== null,
  others: [],
  news: null,
  call: (name) => {
    keep("name", name);
    set({ name, asked: true });
  },
  set: (part) => set(part),
}));
