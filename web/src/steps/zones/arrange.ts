import type { Shape } from "../../api/client";

export type Step = Shape["Step"];
export const WIDE = 208;
export const TALL = 64;
export const GAP_X = 44;
export const GAP_Y = 10;
const BETWEEN = 18;

/** Where every device stands on the sheet: a column for each step from the source, a row for each end. */
export function arrange(steps: Step[]): {
  placed: Map<string, { x: number; y: number }>;
  width: number;
  height: number;
} {
  const placed = new Map<string, { x: number; y: number }>();
  const below = (id: string | null) => steps.filter((s) => s.above === id);
  let row = 0;
  let deepest = 0;
  const put = (step: Step, depth: number): number => {
    deepest = Math.max(deepest, depth);
    const rows = below(step.device).map((u) => put(u, depth + 1));
    let y = ((rows[0] ?? 0) + (rows[rows.length - 1] ?? 0)) / 2;
    if (!rows.length) {
      y = row;
      row += TALL + GAP_Y;
    }
    placed.set(step.device, { x: depth * (WIDE + GAP_X), y });
    return y;
  };
  for (const root of steps.filter((s) => !s.above || !steps.some((o) => o.device === s.above))) {
    put(root, 0);
    row += BETWEEN;
  }
  return { placed, width: (deepest + 1) * (WIDE + GAP_X) - GAP_X, height: Math.max(row - BETWEEN, TALL) };
}
