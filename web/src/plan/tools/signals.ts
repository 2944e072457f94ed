import type { Act } from "./arc";
import { MISS, onTrack, place } from "./clicks";
import type { Caught, Ghost, Outcome, Tool } from "./kinds";

export const detectHere = onTrack(
  "Detector channel",
  "",
  "Click on a stretch between gaps: it gets the next free channel of the nearest board, or a new board beside it.",
  (at) => ({ act: "detect", track: at.track, at: at.at }) as Act,
  MISS,
);
export const detectorBoard = place(
  "Detector board",
  "",
  "Click where a detector board hangs; its addresses follow on the last one's.",
  (at) => ({ act: "control board", kind: "detector", x: at.x, y: at.y }) as Act,
);
export const lampBoard = place(
  "Driver board",
  "",
  "Click where a driver board hangs; what it drives is chosen beside the plan.",
  (at) => ({ act: "control board", kind: "lamps", x: at.x, y: at.y }) as Act,
);

type Standing = { spot: { track: string; at: number; x: number; y: number } | null; here: Caught | null };

/** A signal in two clicks: where it stands, then a place the trains it is for run towards. */
export const putSignal: Tool<Standing> = {
  label: "Signal",
  key: "i",
  start: { spot: null, here: null },
  catches: ["track"],
  hint: (s) =>
    s.spot
      ? "Click further along the track, the way the trains run that it is for."
      : "Click where the signal stands, just before the gap of what it protects.",
  press: (state, at): Outcome<Standing> => {
    if (at.track === undefined || at.at === undefined) return { state, say: MISS };
    if (!state.spot) return { state: { ...state, spot: { track: at.track, at: at.at, x: at.x, y: at.y } } };
    if (at.track !== state.spot.track) return { state, say: "Click further along the same track." };
    if (Math.abs(at.at - state.spot.at) < 1) return { state, say: "A little further along, to say which way." };
    const towards = at.at > state.spot.at ? "b" : "a";
    return {
      state: { spot: null, here: null },
      act: { act: "signal", track: state.spot.track, at: state.spot.at, towards, heads: 1 } as Act,
    };
  },
  move: (state, at) => ({ ...state, here: at }),
  back: () => ({ spot: null, here: null }),
  ghost: (s): Ghost[] => [
    ...(s.spot ? [{ kind: "dot", x: s.spot.x, y: s.spot.y, caught: true } as Ghost] : []),
    ...(s.spot && s.here
      ? [
          {
            kind: "line",
            points: [
              [s.spot.x, s.spot.y],
              [s.here.x, s.here.y],
            ],
            tone: "copper",
          } as Ghost,
        ]
      : []),
    ...(!s.spot && s.here?.track ? [{ kind: "dot", x: s.here.x, y: s.here.y, caught: true } as Ghost] : []),
  ],
};
