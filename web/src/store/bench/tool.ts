import type { ToolName } from "../../plan/tools/kinds";
import type { Slice } from "./slice";

/** The tool in hand, what it draws with, and what it has to say. */
export type Tool = {
  tool: ToolName;
  /** What newly drawn track is made of. */
  like: { use: string; code: number; metal: string; joiner_every: number | null; joiners: string };
  frog: "dead" | "live" | "routing";
  /** How the bridge of the next table is fed; null until somebody says. */
  bridge: "split ring" | "aligned stub" | "reverser" | null;
  /** Two places on the backdrop whose distance is known. */
  measure: { x: number; y: number }[];
  /** What the next click on the plan puts there: a new supply, or a load that was only counted. */
  placing:
    | { what: "supply" }
    | { what: "load"; id: string }
    | { what: "train"; train: string | null; name: string }
    | null;
  /** The circuit that track is being painted into. */
  paint: string | null;
  /** What the tool in hand wants next. */
  hint: string | null;
  /** What the last act had to say. */
  note: string | null;
};

export const tool: Slice<Tool> = () => ({
  tool: "select",
  like: { use: "main", code: 83, metal: "nickel silver", joiner_every: 914.4, joiners: "usual" },
  frog: "live",
  bridge: null,
  measure: [],
  placing: null,
  paint: null,
  hint: null,
  note: null,
});
