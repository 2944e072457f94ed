import type { Shape } from "../api/client";

export type Drawn = Shape["Drawn"];
export type Box = { x0: number; y0: number; x1: number; y1: number };

/** The place at this distance along a drawn path. */
export function along(drawn: Drawn, at: number): [number, number] {
  const { distance: d, points: p } = drawn;
  let i = 0;
  while (i < d.length - 2 && (d[i + 1] ?? 0) < at) i++;
  const step = (d[i + 1] ?? 0) - (d[i] ?? 0);
  const share = step > 0 ? Math.min(Math.max((at - (d[i] ?? 0)) / step, 0), 1) : 0;
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = p.slice(2 * i, 2 * i + 4);
  return [x0 + share * (x1 - x0), y0 + share * (y1 - y0)];
}

export function pathOf(drawn: Drawn): string {
  const { points: p } = drawn;
  let d = "";
  for (let i = 0; i < p.length; i += 2) d += `${i ? "L" : "M"}${p[i]} ${p[i + 1]}`;
  return d;
}

/** The path between two distances along a drawn path. */
export function slice(drawn: Drawn, from: number, to: number): string {
  const { distance: d, points: p } = drawn;
  const [x0, y0] = along(drawn, from);
  let path = `M${x0.toFixed(1)} ${y0.toFixed(1)}`;
  for (let i = 0; i < d.length; i++) {
    const here = d[i] ?? 0;
    if (here > from + 0.5 && here < to - 0.5) path += `L${p[2 * i]} ${p[2 * i + 1]}`;
  }
  const [x1, y1] = along(drawn, to);
  return `${path}L${x1.toFixed(1)} ${y1.toFixed(1)}`;
}

/** The point of a path nearest to a place: distance along, and how far away. */
export function nearest(drawn: Drawn, x: number, y: number): { at: number; away: number } {
  const { distance: d, points: p } = drawn;
  let best = { at: 0, away: Number.POSITIVE_INFINITY };
  for (let i = 0; i + 1 < d.length; i++) {
    const [ax = 0, ay = 0, bx = 0, by = 0] = p.slice(2 * i, 2 * i + 4);
    const dx = bx - ax;
    const dy = by - ay;
    const square = dx * dx + dy * dy;
    const share = square ? Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / square, 0), 1) : 0;
    const away = Math.hypot(ax + share * dx - x, ay + share * dy - y);
    if (away < best.away) best = { at: (d[i] ?? 0) + share * ((d[i + 1] ?? 0) - (d[i] ?? 0)), away };
  }
  return best;
}

export function boxOf(paths: Iterable<readonly number[]>): Box | null {
  const box = {
    x0: Number.POSITIVE_INFINITY,
    y0: Number.POSITIVE_INFINITY,
    x1: Number.NEGATIVE_INFINITY,
    y1: Number.NEGATIVE_INFINITY,
  };
  for (const p of paths)
    for (let i = 0; i + 1 < p.length; i += 2) {
      const x = p[i] ?? 0;
      const y = p[i + 1] ?? 0;
      box.x0 = Math.min(box.x0, x);
      box.y0 = Math.min(box.y0, y);
      box.x1 = Math.max(box.x1, x);
      box.y1 = Math.max(box.y1, y);
    }
  return Number.isFinite(box.x0) ? box : null;
}

/** The tracks among some things, as one path: what is lit. */
export function litPath(tracks: Record<string, Drawn>, lit: ReadonlySet<string>): string {
  return [...lit].map((id) => (tracks[id] ? pathOf(tracks[id]) : "")).join("");
}

/** Whether a place lies within an outline. */
export function within(outline: { x: number; y: number }[], p: { x: number; y: number }): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [a, b] = [outline[i] ?? p, outline[j] ?? p];
    if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}
