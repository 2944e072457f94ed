import type { ZoomTransform } from "d3-zoom";
import { create } from "zustand";

/** Where the plan stands just now: pixels per mm, the plan's origin on screen, how wide the screen is. Only what is drawn at the edges follows it. */
type View = { k: number; x: number; y: number; width: number };
export const useView = create<View>(() => ({ k: 1, x: 0, y: 0, width: Number.POSITIVE_INFINITY }));

/** The last place and zoom of every step of every layout; null where the whole plan was in view. */
const last = new Map<string, ZoomTransform | null>();
const key = (layout: string, step: string) => `${layout} ${step}`;
export const keepView = (layout: string, step: string, view: ZoomTransform | null) => last.set(key(layout, step), view);
export const lastView = (layout: string, step: string) => last.get(key(layout, step)) ?? null;
