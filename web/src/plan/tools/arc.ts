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
    const room = Math.min(into / (i === 1 ? 1 : 2), out / (i === path.length - 2 ? 1 : 2));
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

export const toPath = (points: readonly (readonly [number, number])[]) =>
  points.map(([x, y], k) => `${k ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

export type Act = Shape["ToDo"]["act"];
