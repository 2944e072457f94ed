import type { Drawn } from "./geometry";
import { along } from "./geometry";

/** The part of a drawn path between two distances, moved aside by so many mm (right of the way it runs is positive). */
export function aside(drawn: Drawn, from: number, to: number, off: number): string {
  const { distance: d, points: p } = drawn;
  const places: [number, number][] = [along(drawn, from)];
  for (let i = 0; i < d.length; i++) {
    const here = d[i] ?? 0;
    if (here > from + 0.5 && here < to - 0.5) places.push([p[2 * i] ?? 0, p[2 * i + 1] ?? 0]);
  }
  places.push(along(drawn, to));
  let path = "";
  for (let i = 0; i < places.length; i++) {
    const [x, y] = places[i] as [number, number];
    const [ax, ay] = places[Math.max(i - 1, 0)] as [number, number];
    const [bx, by] = places[Math.min(i + 1, places.length - 1)] as [number, number];
    const length = Math.hypot(bx - ax, by - ay) || 1;
    path += `${i ? "L" : "M"}${(x - ((by - ay) / length) * off).toFixed(1)} ${(y + ((bx - ax) / length) * off).toFixed(1)}`;
  }
  return path;
}
