import type { Shape } from "../../api/client";

export type Vertex = { x: number; y: number; radius?: number | null };
export type Curve = { points: [number, number][]; length: number; tightest: number | null };

/** A path as it will be drawn: legs joined by the largest arcs that fit. For ghosts only; the server draws what counts. */
export function curve(path: readonly Vertex[]): Curve {
  const first = path[0];
  if (!first) return { points: [], length: 0, tightest: null };
  const points: [number, number][] = [[first.x, first.y]];
  let tightest: number | null = null;
  for (let i = 1; i < path.length - 1; i++) {
    const [a, b, c] = [path[i - 1] as Vertex, path[i] as Vertex, path[i + 1] as Vertex];
    const into = Math.hypot(b.x - a.x, b.y - a.y);
    const out = Math.hypot(c.x - b.x, c.y - b.y);
    if (into < 1e-9 || out < 1e-9) continue;
    const [ux, uy, vx, vy] = [(b.x - a.x) / into, (b.y - a.y) / into, (c.x - b.x) / out, (c.y - b.y) / out];
    const turn = Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy);
    if (Math.abs(turn) < 1e-6 || Math.abs(turn) > Math.PI - 1e-3) {
      points.push([b.x, b.y]);
      continue;
    }
    const room = Math.min(share(path, i, i - 1), share(path, i, i + 1));
    const half = Math.tan(Math.abs(turn) / 2);
    const radius = Math.min(b.radius ?? Number.POSITIVE_INFINITY, room / half);
    tightest = tightest === null ? radius : Math.min(tightest, radius);
    const side = Math.sign(turn);
    const sx = b.x - ux * radius * half;
    const sy = b.y - uy * radius * half;
    const [cx, cy] = [sx - uy * radius * side, sy + ux * radius * side];
    const start = Math.atan2(sy - cy, sx - cx);
    const steps = Math.max(2, Math.ceil(Math.abs(turn) / 0.12));
    for (let k = 0; k <= steps; k++) {
      const angle = start + (turn * k) / steps;
      points.push([cx + radius * Math.cos(angle), cy + radius * Math.sin(angle)]);
    }
  }
  const last = path[path.length - 1] as Vertex;
  points.push([last.x, last.y]);
  let length = 0;
  for (let i = 1; i < points.length; i++) {
    const [p, q] = [points[i - 1] as [number, number], points[i] as [number, number]];
    length += Math.hypot(q[0] - p[0], q[1] - p[1]);
  }
  return { points, length, tightest };
}

/** How much of the leg to a neighbour an arc's tangent may take; as `core/layout/geometry.py` has it. */
function share(path: readonly Vertex[], i: number, other: number): number {
  const [here, there] = [path[i] as Vertex, path[other] as Vertex];
  const leg = Math.hypot(here.x - there.x, here.y - there.y);
  if (other === 0 || other === path.length - 1) return leg;
  const [mine, theirs] = [wanted(path, i), wanted(path, other)];
  return mine === null || theirs === null || theirs >= leg / 2 ? leg / 2 : leg - theirs;
}

/** The tangent a bend of a given radius would like. */
function wanted(path: readonly Vertex[], i: number): number | null {
  const [a, b, c] = [path[i - 1], path[i], path[i + 1]];
  if (!a || !b || !c || b.radius === null || b.radius === undefined) return null;
  const turn = Math.atan2(c.y - b.y, c.x - b.x) - Math.atan2(b.y - a.y, b.x - a.x);
  const angle = Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn)));
  return angle < 1e-6 || angle > Math.PI - 1e-3 ? null : b.radius * Math.tan(angle / 2);
}

export const toPath = (points: readonly (readonly [number, number])[]) =>
  points.map(([x, y], k) => `${k ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

export type Act = Shape["ToDo"]["act"];
