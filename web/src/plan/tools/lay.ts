import { lengthText } from "../../parts/units";
import { curve } from "./arc";
import type { Caught, Ctx, Ghost, Outcome, Tool } from "./kinds";

type Laying = { spots: Caught[]; here: Caught | null };
const SNAP_DEGREES = 2;
const EVERY_DEGREES = 15;

/** A free place brought onto the nearest 15° from the one before, where it nearly lies there. */
function squared(before: Caught | undefined, at: Caught): Caught {
  if (!before || at.node || at.track) return at;
  const length = Math.hypot(at.x - before.x, at.y - before.y);
  const degrees = (Math.atan2(at.y - before.y, at.x - before.x) * 180) / Math.PI;
  const near = Math.round(degrees / EVERY_DEGREES) * EVERY_DEGREES;
  if (Math.abs(degrees - near) > SNAP_DEGREES) return at;
  const turn = (near * Math.PI) / 180;
  return { ...at, x: before.x + length * Math.cos(turn), y: before.y + length * Math.sin(turn) };
}

const same = (a: Caught, b: Caught) => Math.hypot(a.x - b.x, a.y - b.y) < 1;

/** Back where it began in the open: the track closes to a ring. */
const closes = (spots: Caught[], at: Caught) => {
  const first = spots[0];
  return (
    first !== undefined &&
    spots.length > 2 &&
    !first.node &&
    !first.track &&
    Math.hypot(first.x - at.x, first.y - at.y) < 60
  );
};

function readout(spots: Caught[], here: Caught, ctx: Ctx): Ghost[] {
  const drawn = curve([...spots, here]);
  const last = spots[spots.length - 1] as Caught;
  const before = spots[spots.length - 2];
  const angle = (a: Caught, b: Caught) => (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI;
  const turn = before ? (((angle(last, here) - angle(before, last) + 540) % 360) - 180).toFixed(0) : null;
  const tight = drawn.tightest !== null && drawn.tightest < ctx.least;
  const lines = [
    `${lengthText(drawn.length, ctx.metric)}, ${turn === null ? `${angle(last, here).toFixed(0)}°` : `turn ${turn}°`}`,
  ];
  if (drawn.tightest !== null)
    lines.push(
      `radius ${lengthText(drawn.tightest, ctx.metric)}${tight ? `, under ${lengthText(ctx.least, ctx.metric)}` : ""}`,
    );
  if (here.node) lines.push(`joins ${here.node}`);
  else if (closes(spots, here)) lines.push("closes the ring");
  else if (here.track) lines.push(`turnout in ${ctx.layout.tracks?.[here.track]?.name ?? here.track}`);
  return [
    { kind: "line", points: drawn.points, tone: tight ? "bad" : "copper" },
    { kind: "label", x: here.x, y: here.y, lines },
  ];
}

function lay(spots: Caught[], ctx: Ctx): Outcome<Laying> {
  if (spots.length < 2) return { state: { spots: [], here: null } };
  return {
    state: { spots: [], here: null },
    act: {
      act: "track",
      spots: spots.map((s) => ({
        x: s.x,
        y: s.y,
        ...(s.node ? { node: s.node } : s.track ? { track: s.track, at: s.at } : {}),
      })),
      like: ctx.like,
      frog: ctx.frog,
    } as never,
  };
}

export const layTrack: Tool<Laying> = {
  label: "Track",
  key: "d",
  start: { spots: [], here: null },
  catches: ["node", "track"],
  hint: (s) =>
    s.spots.length
      ? "Click along the line. An end, or a track, closes it; Enter ends it here; Backspace takes the last place back."
      : "Click where the track begins: on an open end to go on from it, on a track to leave it by a turnout.",
  press: (s, at, ctx) => {
    const spot = squared(s.spots[s.spots.length - 1], at);
    const last = s.spots[s.spots.length - 1];
    if (last && same(last, spot)) return lay(s.spots, ctx);
    const first = s.spots[0];
    if (first && closes(s.spots, at)) return lay([...s.spots, { ...first }], ctx);
    const spots = [...s.spots, spot];
    if (s.spots.length && (spot.node || spot.track)) return lay(spots, ctx);
    return { state: { spots, here: spot } };
  },
  move: (s, at) => ({ ...s, here: squared(s.spots[s.spots.length - 1], at) }),
  finish: (s, ctx) => lay(s.spots, ctx),
  back: (s) => ({ ...s, spots: s.spots.slice(0, -1) }),
  ghost: (s, ctx) => {
    const dots: Ghost[] = s.spots.map((p) => ({ kind: "dot", x: p.x, y: p.y, caught: Boolean(p.node || p.track) }));
    if (s.here && (s.here.node || s.here.track)) dots.push({ kind: "dot", x: s.here.x, y: s.here.y, caught: true });
    if (!s.spots.length || !s.here) return dots;
    return [...readout(s.spots, s.here, ctx), ...dots];
  },
};

type Outline = { corners: Caught[]; here: Caught | null };

function closed(corners: Caught[], act: "board" | "obstacle"): Outcome<Outline> {
  const start = { corners: [], here: null };
  const [a, b] = corners;
  if (!a || !b) return { state: start };
  const outline =
    corners.length === 2 ? [a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }] : corners.map(({ x, y }) => ({ x, y }));
  const points = outline.map(({ x, y }) => ({ x, y }));
  return { state: start, act: act === "board" ? { act, outline: points } : { act, outline: points, kind: "brace" } };
}

const outlined = (label: string, key: string, act: "board" | "obstacle"): Tool<Outline> => ({
  label,
  key,
  start: { corners: [], here: null },
  catches: [],
  hint: (s) =>
    s.corners.length < 2
      ? "Click two opposite corners for a rectangle and press Enter, or click corner after corner."
      : "Enter closes it; two corners make a rectangle.",
  press: (s, at) => {
    const first = s.corners[0];
    if (first && s.corners.length > 2 && Math.hypot(first.x - at.x, first.y - at.y) < 60) return closed(s.corners, act);
    return { state: { corners: [...s.corners, at], here: at } };
  },
  move: (s, at) => ({ ...s, here: at }),
  finish: (s) => closed(s.corners, act),
  back: (s) => ({ ...s, corners: s.corners.slice(0, -1) }),
  ghost: (s, ctx) => {
    const first = s.corners[0];
    if (!first || !s.here) return [];
    const h = s.here;
    const points: [number, number][] =
      s.corners.length === 1
        ? [
            [first.x, first.y],
            [h.x, first.y],
            [h.x, h.y],
            [first.x, h.y],
            [first.x, first.y],
          ]
        : [...s.corners.map((p) => [p.x, p.y] as [number, number]), [h.x, h.y], [first.x, first.y]];
    const size = `${lengthText(Math.abs(h.x - first.x), ctx.metric)} by ${lengthText(Math.abs(h.y - first.y), ctx.metric)}`;
    return [
      { kind: "line", points, tone: "board" },
      { kind: "label", x: h.x, y: h.y, lines: [size] },
    ];
  },
});

export const drawBoard = outlined("Board", "b", "board");
/** A brace, a leg, a machine: what wire goes round. */
export const drawObstacle = outlined("Obstacle", "k", "obstacle");

type Wiring = { points: Caught[]; here: Caught | null };

export const drawBus: Tool<Wiring> = {
  label: "Bus",
  key: "u",
  start: { points: [], here: null },
  catches: ["device", "terminal"],
  hint: (s) =>
    s.points.length
      ? "Click along the way under the track; Enter ends the bus. Terminals come along it and at its end."
      : "Click the station, booster, breaker or reverser the bus starts from, or a terminal to branch from.",
  press: (s, at) => {
    const last = s.points[s.points.length - 1];
    if (!last && !at.device && !at.terminal)
      return { state: s, say: "A bus starts at a source, breaker or reverser, or at a terminal: click one." };
    if (last && same(last, at)) return bus(s.points);
    return { state: { points: [...s.points, at], here: at } };
  },
  move: (s, at) => ({ ...s, here: at }),
  finish: (s) => bus(s.points),
  back: (s) => ({ ...s, points: s.points.slice(0, -1) }),
  ghost: (s, ctx) => {
    const dots: Ghost[] =
      s.here && (s.here.device || s.here.terminal) ? [{ kind: "dot", x: s.here.x, y: s.here.y, caught: true }] : [];
    if (!s.points.length || !s.here) return dots;
    const drawn = curve([...s.points, s.here]);
    return [
      { kind: "line", points: drawn.points, tone: "copper" },
      { kind: "label", x: s.here.x, y: s.here.y, lines: [lengthText(drawn.length, ctx.metric)] },
    ];
  },
};

function bus(points: Caught[]): Outcome<Wiring> {
  const start = { points: [], here: null };
  const first = points[0];
  if (!first || points.length < 2) return { state: start };
  return {
    state: start,
    act: {
      act: "run",
      points: points.map(({ x, y }) => ({ x, y })),
      ...(first.device ? { device: first.device } : { terminal: first.terminal ?? null }),
    },
  };
}
