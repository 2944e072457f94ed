import type { ToolName } from "../../plan/tools/kinds";

type Row = readonly [ToolName, string, string];
/** The tools by what they are for: name, what the button says, key. */
export const TOOL_GROUPS: readonly (readonly [string, readonly Row[]])[] = [
  [
    "",
    [
      ["select", "Select, move", "s"],
      ["throw", "Set turnouts", "o"],
    ],
  ],
  [
    "Track",
    [
      ["track", "Track", "d"],
      ["split", "Split", "x"],
      ["crossing", "Crossing", ""],
      ["slip", "Slip", ""],
      ["turntable", "Turntable", ""],
      ["traverser", "Traverser", ""],
    ],
  ],
  [
    "Cut and feed",
    [
      ["gap", "Gap, both rails", "g"],
      ["left gap", "Gap, left rail", ""],
      ["right gap", "Gap, right rail", ""],
      ["section", "Section", "n"],
      ["feeder", "Feeder", "e"],
    ],
  ],
  [
    "Power",
    [
      ["station", "Source", "w"],
      ["bus", "Bus", "u"],
      ["terminal", "Terminal", "m"],
      ["plug", "Plug", ""],
    ],
  ],
  [
    "Detect and signal",
    [
      ["detect", "Detector channel", ""],
      ["signal", "Signal", "i"],
      ["detector board", "Detector board", ""],
      ["lamp board", "Driver board", ""],
    ],
  ],
  [
    "Benchwork",
    [
      ["board", "Board", "b"],
      ["obstacle", "Obstacle", "k"],
    ],
  ],
];

export const TOOL_KEYS: Record<string, ToolName> = Object.fromEntries(
  TOOL_GROUPS.flatMap(([, rows]) => rows.filter(([, , key]) => key).map(([name, , key]) => [key, name])),
);
