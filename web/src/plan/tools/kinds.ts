import type { Layout } from "../../api/client";
import type { Thing } from "../../store/bench";
import type { Act } from "./arc";

export type ToolName =
  | "select"
  | "track"
  | "board"
  | "obstacle"
  | "gap"
  | "left gap"
  | "right gap"
  | "feeder"
  | "split"
  | "crossing"
  | "slip"
  | "turntable"
  | "traverser"
  | "station"
  | "bus"
  | "terminal"
  | "plug"
  | "section"
  | "detect"
  | "signal"
  | "detector board"
  | "lamp board"
  | "throw"
  | "scale"
  | "corners"
  | "leave out"
  | "only here";

/** Tools that only note places: how many of them. */
export const PLACES: Record<string, number> = { scale: 2, corners: 4, "leave out": 2, "only here": 2 };

/** A place the pointer is at, and what it caught there. */
export type Caught = {
  x: number;
  y: number;
  node?: string;
  track?: string;
  at?: number;
  device?: string;
  terminal?: string;
  run?: string;
  /** Every track under the pointer, nearest first, for places where two cross. */
  tracks?: { track: string; at: number }[];
};

export type Ghost =
  | { kind: "line"; points: [number, number][]; tone?: "copper" | "board" | "bad" }
  | { kind: "dot"; x: number; y: number; caught?: boolean }
  | { kind: "label"; x: number; y: number; lines: string[] };

export type Outcome<S> = { state: S; act?: Act; say?: string; choose?: Thing };
export type Ctx = {
  layout: Layout;
  metric: boolean;
  least: number;
  like: Record<string, unknown>;
  frog: "dead" | "live" | "routing";
  bridge: "split ring" | "aligned stub" | "reverser" | null;
};

/** A drawing tool as a small state machine: presses and moves in, a new state and perhaps one act out. */
export type Tool<S = unknown> = {
  label: string;
  key: string;
  start: S;
  hint: (state: S) => string;
  press: (state: S, at: Caught, ctx: Ctx) => Outcome<S>;
  move?: (state: S, at: Caught) => S;
  finish?: (state: S, ctx: Ctx) => Outcome<S>;
  back?: (state: S) => S;
  ghost?: (state: S, ctx: Ctx) => Ghost[];
  /** What the tool catches beside bare places. */
  catches: readonly ("node" | "track" | "device" | "terminal" | "run")[];
};
