import { useMemo } from "react";
import type { Answers, Layout } from "../api/client";
import type { Look } from "../store/bench";
import { along, boxOf } from "./geometry";
import { type Label, placeLabels, round, type Stand } from "./labels";

export type Placed = ReadonlyMap<string, Stand>;
const FIGURE = 5.9;
const CHAR = 6.3;
const MOST_TRACK_POINTS = 6000;

export const boardSize = (name: string) => ({ width: name.length * FIGURE + 4, height: 13 });
export const deviceSize = (name: string, second: string) => ({
  width: Math.max(name.length, second.length) * CHAR + 16,
  height: 28,
});
export const chipSize = (name: string) => ({ width: name.length * 5.9 + 24, height: 17 });
export const spotSize = (lines: readonly [string, string]) => ({
  width: Math.max(lines[0].length * 7, lines[1].length * 5.7) + 18,
  height: 36,
});
export const isBig = (kind: string) => ["booster", "station", "supply", "cab", "transformer output"].includes(kind);
export const secondLine = (device: NonNullable<Layout["devices"]>[string]) =>
  device.trip_amps ? `${device.trip_amps} A` : device.kind;

export type SpotAt = { x: number; y: number; lines: readonly [string, string] } | null;

/** One chip per circuit that feeds track, at its first section's anchor; a section behind a detector is its district's. */
export function districtChips(layout: Layout, tracks: Answers["tracks"]) {
  const seen = new Set<string>();
  const above: Record<string, string> = {};
  for (const d of Object.values(layout.devices ?? {})) if (d.board && d.input) above[d.output] = d.input;
  const found: { id: string; x: number; y: number; name: string; ink: string; width: number }[] = [];
  for (const section of Object.values(layout.sections ?? {})) {
    const drawn = tracks[section.track];
    const id = above[section.circuit] ?? section.circuit;
    const circuit = layout.circuits?.[id];
    if (!drawn || !circuit || seen.has(id)) continue;
    seen.add(id);
    const [x, y] = along(drawn, section.at);
    found.push({
      id,
      x,
      y,
      name: circuit.name,
      ink: circuit.ink ?? "var(--copper)",
      width: chipSize(circuit.name).width,
    });
  }
  return found;
}

/** Where the words of the plan stand at the zoom at hand. */
export function useLabels(
  layout: Layout | undefined,
  answers: Answers | undefined,
  look: Look,
  drawing: boolean,
  spot: SpotAt,
  more: Label[],
  bucket: number,
): Placed {
  const tracks = answers?.tracks;
  const middle = useMemo(() => {
    const box = boxOf(Object.values(tracks ?? {}).map((t) => t.points));
    return box ? { x: (box.x0 + box.x1) / 2, y: (box.y0 + box.y1) / 2 } : { x: 0, y: 0 };
  }, [tracks]);
  const fixed = useMemo(() => {
    if (!layout) return [];
    const labels: Label[] = [];
    for (const [id, device] of Object.entries(layout.devices ?? {})) {
      if (device.board || !isBig(device.kind)) continue;
      const { width, height } = deviceSize(device.name, secondLine(device));
      const on = { x: device.at.x, y: device.at.y, dx: -width / 2, dy: -height / 2 };
      labels.push({
        key: `device:${id}`,
        width,
        height,
        weight: 3,
        stands: [on, ...round(device.at.x, device.at.y, width, height, 10)],
      });
    }
    for (const [id, panel] of Object.entries(layout.panels ?? {})) {
      const { width, height } = chipSize(panel.name);
      const stands = round(panel.at.x, panel.at.y, width, height, 10);
      labels.push({ key: `panel:${id}`, width, height, weight: 2, stands });
    }
    for (const [id, board] of Object.entries(layout.boards ?? {}))
      labels.push({
        key: `board:${id}`,
        ...boardSize(board.name),
        weight: 1,
        stands: boardStands(board, layout.boards),
      });
    if (tracks && !drawing && look !== "blocks" && look !== "signals")
      for (const c of districtChips(layout, tracks))
        labels.push({
          key: `chip:${c.id}`,
          width: c.width,
          height: 17,
          weight: 2,
          stands: round(c.x, c.y, c.width, 17, 9, middle),
        });
    return labels;
  }, [layout, tracks, look, drawing, middle]);
  const points = useMemo(() => {
    const all = Object.values(tracks ?? {}).flatMap((t) => evenly(t.points, t.distance));
    const every = Math.max(1, Math.ceil(all.length / 2 / MOST_TRACK_POINTS));
    return every === 1 ? all : all.filter((_, i) => Math.floor(i / 2) % every === 0);
  }, [tracks]);
  return useMemo(() => {
    const labels = [...fixed, ...more];
    if (spot) {
      const { width, height } = spotSize(spot.lines);
      labels.push({ key: "spot", width, height, weight: 9, stands: round(spot.x, spot.y, width, height, 14, middle) });
    }
    // A step of zoom is a factor of the square root of two, round its middle.
    const scales = [-0.5, 0, 0.5].map((half) => 2 ** ((bucket + half) / 2));
    return placeLabels(labels, scales, points);
  }, [fixed, more, spot, bucket, points, middle]);
}

const STEP_MM = 150;
/** Places along a line no farther apart than a label is long at any useful zoom. */
function evenly(points: readonly number[], distance: readonly number[]): number[] {
  const found: number[] = [];
  for (let i = 0; i + 1 < distance.length; i++) {
    const [ax = 0, ay = 0, bx = 0, by = 0] = points.slice(2 * i, 2 * i + 4);
    const parts = Math.max(1, Math.round(((distance[i + 1] ?? 0) - (distance[i] ?? 0)) / STEP_MM));
    for (let n = 0; n < parts; n++) found.push(ax + ((bx - ax) * n) / parts, ay + ((by - ay) * n) / parts);
  }
  return found;
}

type Board = NonNullable<Layout["boards"]>[string];
/** A board's name stands along its edges, outside first, towards the middle of the room. */
function boardStands(board: Board, boards: Layout["boards"]): Stand[] {
  const heights = Object.values(boards ?? {}).flatMap((b) => b.outline.map((p) => p.y));
  const middle = (Math.min(...heights) + Math.max(...heights)) / 2;
  const xs = board.outline.map((p) => p.x);
  const ys = board.outline.map((p) => p.y);
  const [left, right, top, low] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const { width } = boardSize(board.name);
  const below = (top + low) / 2 > middle;
  const edges = below
    ? [
        [top, 3],
        [low, -16],
        [top, -15],
      ]
    : [
        [low, -16],
        [top, 3],
        [low, 3],
      ];
  return edges.flatMap(([y = 0, dy = 0]) => [
    { x: left, y, dx: 5, dy },
    { x: right, y, dx: -width - 5, dy },
    { x: (left + right) / 2, y, dx: -width / 2, dy },
    { x: (3 * left + right) / 4, y, dx: -width / 2, dy },
    { x: (left + 3 * right) / 4, y, dx: -width / 2, dy },
  ]);
}
