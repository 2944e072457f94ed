import {
  crossTracks,
  cutGap,
  cutLeft,
  cutRight,
  feed,
  nameSection,
  putPlug,
  putTerminal,
  slipTracks,
  split,
  station,
  traverser,
  turntable,
} from "./clicks";
import type { Tool, ToolName } from "./kinds";
import { drawBoard, drawBus, drawObstacle, layTrack } from "./lay";
import { detectHere, detectorBoard, lampBoard, putSignal } from "./signals";

/** Every tool that acts by clicking on the plan. Selecting, throwing and scaling have ways of their own. */
export const TOOLS: Partial<Record<ToolName, Tool>> = {
  track: layTrack as Tool,
  board: drawBoard as Tool,
  obstacle: drawObstacle as Tool,
  gap: cutGap as Tool,
  "left gap": cutLeft as Tool,
  "right gap": cutRight as Tool,
  feeder: feed as Tool,
  split: split as Tool,
  crossing: crossTracks as Tool,
  slip: slipTracks as Tool,
  turntable: turntable as Tool,
  traverser: traverser as Tool,
  station: station as Tool,
  bus: drawBus as Tool,
  terminal: putTerminal as Tool,
  plug: putPlug as Tool,
  section: nameSection as Tool,
  detect: detectHere as Tool,
  signal: putSignal as Tool,
  "detector board": detectorBoard as Tool,
  "lamp board": lampBoard as Tool,
};

export type { Act } from "./arc";
export type { Caught, Ctx, Ghost, Tool, ToolName } from "./kinds";
