/** What the document lets one choose from, as the API describes it; the type checker holds each list to it. */
import type { Shape } from "../api/client";

type Track = Shape["Track"];
export const USES = [
  "main",
  "branch",
  "siding",
  "yard",
  "staging",
  "engine terminal",
  "industry",
  "programming",
] as const satisfies readonly Track["use"][];
export const METALS = ["nickel silver", "brass", "steel"] as const satisfies readonly Track["metal"][];
export const JOINERS = ["soldered", "tight", "usual", "old"] as const satisfies readonly Track["joiners"][];
/** Rail codes to offer; any other may be typed. */
export const CODES = ["40", "55", "70", "80", "83", "100", "125", "148", "250", "332"];
