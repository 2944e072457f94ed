import type { Slice } from "./slice";

/** What a proposal that is looked at would do, inked on the plan. */
export type Proposed = {
  ghostGaps: { x: number; y: number }[];
  ghostHeads: { x: number; y: number; degrees: number; words: string }[];
  /** Track inked as the proposal would have it. */
  ghostInks: { track: string; start: number; end: number; ink: string }[];
  /** What a change that is looked at would put on the plan, and what it would alter there. */
  ghostMarks: { spots: { x: number; y: number }[]; lines: { d: string }[] };
};

/** Nothing proposed. */
export const NO_GHOSTS: Proposed = {
  ghostGaps: [],
  ghostHeads: [],
  ghostInks: [],
  ghostMarks: { spots: [], lines: [] },
};

export const proposed: Slice<Proposed> = () => NO_GHOSTS;
