import type { Answers } from "../../api/client";
import { along, nearest } from "../geometry";
import type { Caught } from "./kinds";

export const NODE_PX = 13;
export const TRACK_PX = 10;

/** What a place on the plan catches: open ends and joints first, then tracks; devices and terminals for wires. */
export function catchAt(
  answers: Answers,
  at: { x: number; y: number; mmPerPx: number },
  kinds: readonly string[],
  devices: Record<string, { at: { x: number; y: number } }>,
  tables: Record<string, number>,
  without?: { node?: string; tracks?: readonly string[] },
): Caught {
  const { x, y, mmPerPx } = at;
  const free: Caught = { x, y };
  if (kinds.includes("device")) {
    const near = Object.entries(devices)
      .map(([id, d]) => [Math.hypot(d.at.x - x, d.at.y - y), id, d.at] as const)
      .sort((a, b) => a[0] - b[0])[0];
    if (near && near[0] < 18 * mmPerPx) return { x: near[2].x, y: near[2].y, device: near[1] };
  }
  if (kinds.includes("terminal")) {
    const near = Object.entries(answers.terminals)
      .map(([id, t]) => [Math.hypot(t.x - x, t.y - y), id, t] as const)
      .sort((a, b) => a[0] - b[0])[0];
    if (near && near[0] < NODE_PX * mmPerPx) return { x: near[2].x, y: near[2].y, terminal: near[1] };
  }
  if (kinds.includes("run")) {
    const near = Object.entries(answers.runs)
      .map(([id, drawn]) => [nearest(drawn, x, y), id, drawn] as const)
      .sort((a, b) => a[0].away - b[0].away)[0];
    if (near && near[0].away < NODE_PX * mmPerPx) {
      const [px, py] = along(near[2], near[0].at);
      return { x: px, y: py, run: near[1] };
    }
  }
  if (kinds.includes("node")) {
    let best: [number, string] | null = null;
    for (const [id, n] of Object.entries(answers.nodes)) {
      if (id === without?.node) continue;
      const pit = tables[id];
      const away = Math.hypot(n.x - x, n.y - y) - (pit ? pit / 2 : 0);
      if (away < NODE_PX * mmPerPx && (!best || away < best[0])) best = [away, id];
    }
    if (best) {
      const n = answers.nodes[best[1]];
      return tables[best[1]] || !n ? { x, y, node: best[1] } : { x: n.x, y: n.y, node: best[1] };
    }
  }
  if (kinds.includes("track")) {
    const found: { track: string; at: number; away: number }[] = [];
    for (const [track, drawn] of Object.entries(answers.tracks)) {
      if (without?.tracks?.includes(track)) continue;
      const hit = nearest(drawn, x, y);
      if (hit.away < TRACK_PX * mmPerPx) found.push({ track, ...hit });
    }
    found.sort((a, b) => a.away - b.away);
    const first = found[0];
    const drawn = first ? answers.tracks[first.track] : undefined;
    if (first && drawn) {
      const [px, py] = along(drawn, first.at);
      return { x: px, y: py, track: first.track, at: first.at, tracks: found };
    }
  }
  return free;
}
