import { create } from "zustand";

/** The stretch of the evening that strips and lines show, s; null for all of it. */
type Span = { from: number; to: number } | null;
type Store = { span: Span; zoom: (whole: number, about: number, by: number) => void; all: () => void };

const LEAST = 20;

export const useSpan = create<Store>((set, get) => ({
  span: null,
  zoom: (whole, about, by) => {
    const { from, to } = get().span ?? { from: 0, to: whole };
    const length = Math.min(whole, Math.max(LEAST, (to - from) * by));
    if (length >= whole) return set({ span: null });
    const share = (about - from) / (to - from);
    const start = Math.min(Math.max(0, about - share * length), whole - length);
    set({ span: { from: start, to: start + length } });
  },
  all: () => set({ span: null }),
}));
