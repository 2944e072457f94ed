import { useLayout } from "../../store/layout";
import type { Act } from "./arc";
import type { Caught, Ctx, Ghost, Outcome, Tool } from "./kinds";

type Here = { here: Caught | null };
/** What a source is, by the control the brief wishes for. */
const SOURCE_OF = { dcc: "booster", dc: "cab", ac3: "transformer output" } as const;

/** A tool that does its act with one click on a track. */
export function onTrack(
  label: string,
  key: string,
  hint: string,
  act: (at: Caught & { track: string; at: number }, ctx: Ctx) => Act,
  miss: string,
): Tool<Here> {
  return {
    label,
    key,
    start: { here: null },
    catches: ["track"],
    hint: () => hint,
    press: (state, at, ctx) =>
      at.track !== undefined && at.at !== undefined
        ? { state, act: act({ ...at, track: at.track, at: at.at }, ctx) }
        : { state, say: miss },
    move: (_, at) => ({ here: at }),
    ghost: (s): Ghost[] => (s.here?.track ? [{ kind: "dot", x: s.here.x, y: s.here.y, caught: true }] : []),
  };
}

export const MISS = "Click on a track.";
const gap = (rails: "both" | "left" | "right") => (at: { track: string; at: number }) =>
  ({ act: "gap", track: at.track, at: at.at, rails }) as Act;

export const cutGap = onTrack("Gap", "g", "Click where both rails are to be cut.", gap("both"), MISS);
export const cutLeft = onTrack(
  "Gap, left rail",
  "",
  "Click where the left rail is to be cut, left as seen from the track's A end.",
  gap("left"),
  MISS,
);
export const cutRight = onTrack("Gap, right rail", "", "Click where the right rail is to be cut.", gap("right"), MISS);
export const feed = onTrack(
  "Feeder",
  "e",
  "Click where a feeder is to be soldered; it goes to the nearest terminal of its section's circuit, in phase.",
  (at) => ({ act: "feeder", track: at.track, at: at.at }),
  MISS,
);
export const split = onTrack(
  "Split",
  "x",
  "Click where a track is to be two, end to end.",
  (at) => ({ act: "split", track: at.track, at: at.at }),
  MISS,
);
export const nameSection = onTrack(
  "Section",
  "n",
  "Click on a stretch to name it a section; change its name and circuit beside the plan.",
  (at, ctx) => ({
    act: "section",
    track: at.track,
    at: at.at,
    name: `Section ${1 + Object.keys(ctx.layout.sections ?? {}).length}`,
  }),
  MISS,
);

/** A tool that puts something where one clicks. */
export function place(label: string, key: string, hint: string, act: (at: Caught) => Act): Tool<Here> {
  return {
    label,
    key,
    start: { here: null },
    catches: [],
    hint: () => hint,
    press: (state, at) => ({ state, act: act(at) }),
    move: (_, at) => ({ here: at }),
    ghost: (s): Ghost[] => (s.here ? [{ kind: "dot", x: s.here.x, y: s.here.y }] : []),
  };
}

export const station = place(
  "Source",
  "w",
  "Click where it stands: a booster, a cab or a transformer, by the brief. Put its ratings right from its label.",
  (at) => ({
    act: "source",
    kind: SOURCE_OF[useLayout.getState().state?.document.brief?.control ?? "dcc"],
    x: at.x,
    y: at.y,
  }),
);
/** A table is placed once somebody has said how its bridge is fed: that decides what its stubs want. */
function table(kind: "turntable" | "traverser", label: string, hint: string): Tool<Here> {
  const whole = place(label, "", hint, (at) => ({
    act: "table",
    kind,
    x: at.x,
    y: at.y,
    angle: 0,
    bridge: "split ring",
  }));
  return {
    ...whole,
    press: (state, at, ctx) =>
      ctx.bridge
        ? { state, act: { act: "table", kind, x: at.x, y: at.y, angle: 0, bridge: ctx.bridge } }
        : { state, say: "Say first how its bridge is fed: at the top, beside the plan." },
  };
}

export const turntable = table(
  "turntable",
  "Turntable",
  "Click the middle of the pit; then draw tracks up to it, each becomes a stub.",
);
export const traverser = table(
  "traverser",
  "Traverser",
  "Click the middle of the bridge; then draw tracks up to either side.",
);

function crossing(kind: "crossing" | "slip"): Tool<Here> {
  return {
    label: kind === "slip" ? "Slip" : "Crossing",
    key: "",
    start: { here: null },
    catches: ["track"],
    hint: () => `Click where one track lies over another; a ${kind} goes there.`,
    press: (state, at): Outcome<Here> => {
      const [one, other] = at.tracks ?? [];
      if (!one || !other) return { state, say: "Click where two tracks cross." };
      return {
        state,
        act: { act: "cross", kind, one: one.track, one_at: one.at, other: other.track, other_at: other.at },
      };
    },
    move: (_, at) => ({ here: at }),
    ghost: (s): Ghost[] =>
      (s.here?.tracks?.length ?? 0) > 1 && s.here ? [{ kind: "dot", x: s.here.x, y: s.here.y, caught: true }] : [],
  };
}
export const crossTracks = crossing("crossing");
export const slipTracks = crossing("slip");

/** A tool that puts something on a bus with one click. */
const onRun = (label: string, key: string, what: "terminal" | "plug", hint: string): Tool<Here> => ({
  label,
  key,
  start: { here: null },
  catches: ["run"],
  hint: () => hint,
  press: (state, at) =>
    at.run
      ? { state, act: { act: "put on run", run: at.run, what, x: at.x, y: at.y } as Act }
      : { state, say: "Click on a bus." },
  move: (_, at) => ({ here: at }),
  ghost: (s): Ghost[] => (s.here?.run ? [{ kind: "dot", x: s.here.x, y: s.here.y, caught: true }] : []),
});

export const putTerminal = onRun(
  "Terminal",
  "m",
  "terminal",
  "Click where a terminal is to stand on a bus; what kind it is, strip, lever, tap or solder, is chosen beside the plan.",
);
export const putPlug = onRun("Plug", "", "plug", "Click where a bus crosses a joint that comes apart.");
