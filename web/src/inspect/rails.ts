import type { Layout } from "../api/client";

/** Whether a track has a centre rail: as said, else where the brief says three-rail. */
export function hasThreeRails(layout: Layout, track: string | undefined): boolean {
  const rails = layout.tracks?.[track ?? ""]?.rails;
  return rails ? rails === 3 : layout.brief?.control === "ac3";
}
