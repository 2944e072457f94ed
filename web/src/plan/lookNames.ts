import type { Look } from "../store/bench";

/** The looks of the plan in the order they stand in: what each is called, and its key. */
export const LOOK_NAMES: readonly (readonly [look: Look, name: string, key: string])[] = [
  ["track", "Track", "t"],
  ["zones", "Zones", "z"],
  ["cabs", "Cabs", "y"],
  ["volts", "Volts", "v"],
  ["coin", "Coin test", "c"],
  ["phase", "Phase", "p"],
  ["reversing", "Reversing", "r"],
  ["blocks", "Blocks", "l"],
  ["signals", "Signals", "h"],
];
