import type { Slice } from "./slice";

/** What a proposal that is looked at would do, inked on the plan. */
/** A place of the bench on the plan. chance: of a suspect, 0 to 1. */
export type Proof = {
  key: string;
  x: number;
  y: number;
  state: "open" | "sound" | "bad" | "unsure" | "next" | "suspect";
  words: string;
  chance?: number;
};

export type Proposed = {
  ghostGaps: { x: number; y: number }[];
  ghostHeads: { x: number; y: number; degrees: number; words: string }[];
  /** Track inked as the proposal would have it. */
  ghostInks: { track: string; start: number; end: number; ink: string }[];
  /** What a change that is looked at would put on the plan, and what it would alter there. */
  /** Places of the bench: tests by how they stand, what is suspected, what is to be tried next. */
  proofs: Proof[];
  ghostMarks: { spots: { x: number; y: number }[]; lines: { d: string }[] };
};

/** Nothing proposed. */
export const NO_GHOSTS: Proposed = {
  ghostGaps: [],
  ghostHeads: [],
  ghostInks: [],
  proofs: [],
  ghostMarks: { spots: [], lines: [] },
};

export const proposed: Slice<Proposed> = () => NO_GHOSTS;
