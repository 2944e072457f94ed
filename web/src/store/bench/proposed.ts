import type { Slice } from "./slice";

/** What a proposal that is looked at would do, inked on the plan. */
export type Proposed = {
  ghostGaps: { x: number; y: number }[];
  ghostHeads: { x: number; y: number; degrees: number; words: string }[];
  /** Track inked as the proposal would have it. */
  ghostInks: { track: string; start: number; end: number; ink: string }[];
};

/** Nothing proposed. */
export const NO_GHOSTS: Proposed = { ghostGaps: [], ghostHeads: [], ghostInks: [] };

export const proposed: Slice<Proposed> = () => NO_GHOSTS;
