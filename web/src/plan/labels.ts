/** Words on the plan that must not lie on each other: each has a few places it may stand, the best free one is taken. */

/** A place a label may stand: a point of the plan, mm, and how far from it its upper left corner is, px. */
export type Stand = { x: number; y: number; dx: number; dy: number };
export type Label = {
  key: string;
  width: number;
  height: number;
  /** In order of liking. */
  stands: Stand[];
  /** Those with more of it choose first. */
  weight: number;
};
type Rect = [number, number, number, number];

/** Labels keep a breath apart, px. */
const AIR = 2;
/** What a label costs more for each point of track it would lie on, in steps of liking. */
const TRACK_COST = 0.35;
const CELL = 24;

const at = (label: Label, s: Stand, k: number): Rect => {
  const [x, y] = [s.x * k + s.dx, s.y * k + s.dy];
  return [x - AIR, y - AIR, x + label.width + AIR, y + label.height + AIR];
};
const meet = (a: Rect, b: Rect) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];

/**
 * Where each label stands; those missing from the answer found no free place at this zoom.
 *
 * `scales` are pixels per mm, the ends and the middle of a step of zoom: a place is free where it is free at all of them.
 * `track` is points of track, mm as x, y, x, y: lying on them is allowed, and avoided.
 */
export function placeLabels(labels: Label[], scales: number[], track: number[] = []): Map<string, Stand> {
  const k = scales[0] ?? 1;
  const points = new Map<string, [number, number][]>();
  for (let i = 0; i + 1 < track.length; i += 2) {
    const [x, y] = [(track[i] ?? 0) * k, (track[i + 1] ?? 0) * k];
    const cell = `${Math.floor(x / CELL)},${Math.floor(y / CELL)}`;
    const there = points.get(cell);
    if (there) there.push([x, y]);
    else points.set(cell, [[x, y]]);
  }
  const covered = (r: Rect) => {
    let found = 0;
    for (let cx = Math.floor(r[0] / CELL); cx <= Math.floor(r[2] / CELL); cx++)
      for (let cy = Math.floor(r[1] / CELL); cy <= Math.floor(r[3] / CELL); cy++)
        for (const [x, y] of points.get(`${cx},${cy}`) ?? []) if (x > r[0] && x < r[2] && y > r[1] && y < r[3]) found++;
    return found;
  };
  const taken: Rect[][] = [];
  const placed = new Map<string, Stand>();
  const inTurn = [...labels].sort((a, b) => b.weight - a.weight || (a.key < b.key ? -1 : 1));
  for (const label of inTurn) {
    let best: { stand: Stand; rects: Rect[]; cost: number } | null = null;
    for (const [liking, stand] of label.stands.entries()) {
      if (best && liking >= best.cost) break;
      const rects = scales.map((s) => at(label, stand, s));
      if (taken.some((other) => other.some((o, n) => rects[n] && meet(o, rects[n])))) continue;
      const cost = liking + TRACK_COST * covered(rects[0] as Rect);
      if (!best || cost < best.cost) best = { stand, rects, cost };
    }
    if (!best) continue;
    taken.push(best.rects);
    placed.set(label.key, best.stand);
  }
  return placed;
}

/** Round a point, near and far; with a middle given, towards that first: at the edge of the plan words would run out of view. */
export function round(
  x: number,
  y: number,
  width: number,
  height: number,
  gap: number,
  middle?: { x: number; y: number },
): Stand[] {
  const [w, h] = [width / 2, height / 2];
  const near = [
    [gap, -h],
    [-width - gap, -h],
    [-w, gap],
    [-w, -height - gap],
    [gap, gap],
    [-width - gap, gap],
    [gap, -height - gap],
    [-width - gap, -height - gap],
  ] as const;
  const far = near.map(([dx, dy]) => [dx + Math.sign(dx + w) * 14, dy + Math.sign(dy + h) * height] as const);
  const towards = ([dx, dy]: readonly [number, number]) =>
    middle ? Math.sign(dx + w) * Math.sign(x - middle.x) + 2 * Math.sign(dy + h) * Math.sign(y - middle.y) : 0;
  const liked = (all: (readonly [number, number])[]) => [...all].sort((a, b) => towards(a) - towards(b));
  return [...liked([...near]), ...liked(far)].map(([dx, dy]) => ({ x, y, dx, dy }));
}
