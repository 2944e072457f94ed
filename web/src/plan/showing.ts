import type { Answers, Layout } from "../api/client";
import type { Place, Thing } from "../store/bench";
import { along, type Box, boxOf } from "./geometry";

const round = (x: number, y: number): Box => ({ x0: x - 1100, y0: y - 700, x1: x + 1100, y1: y + 700 });

/** The part of the plan to bring into view for a thing, a place, or a spot that is neither. */
export function boxFor(
  answers: Answers,
  layout: Layout | undefined,
  thing: Thing | null,
  place: Place | null,
  bare?: { x: number; y: number },
): Box | null {
  if (bare) return round(bare.x, bare.y);
  const drawn = place ? answers.tracks[place.track] : undefined;
  if (thing?.kind === "run") return boxOf([answers.runs[thing.id]?.points ?? []]);
  const feeder = thing?.kind === "feeder" ? answers.feeders[thing.id] : undefined;
  if (feeder) return boxOf([[feeder.x1 - 900, feeder.y1 - 600, feeder.x2 + 900, feeder.y2 + 600]]);
  const device = thing?.kind === "device" ? layout?.devices?.[thing.id]?.at : undefined;
  if (device) return round(device.x, device.y);
  const signal = thing?.kind === "signal" ? layout?.signals?.[thing.id] : undefined;
  const beside = signal ? answers.tracks[signal.track] : undefined;
  if (signal && beside) return round(...along(beside, signal.at));
  const control =
    thing?.kind === "detector"
      ? layout?.detectors?.[thing.id]?.at
      : thing?.kind === "driver"
        ? layout?.drivers?.[thing.id]?.at
        : undefined;
  if (control) return round(control.x, control.y);
  const load = thing?.kind === "load" ? layout?.loads?.[thing.id]?.at : undefined;
  if (load) return round(load.x, load.y);
  const spot =
    thing?.kind === "terminal"
      ? answers.terminals[thing.id]
      : thing?.kind === "node"
        ? answers.nodes[thing.id]
        : undefined;
  if (spot) return round(spot.x, spot.y);
  const outline = layout && thing ? outlineOf(layout, thing) : undefined;
  if (outline) return boxOf([outline.flatMap((p) => [p.x, p.y])]);
  if (drawn && place) return round(...along(drawn, place.at));
  if (thing?.kind === "track") return boxOf([answers.tracks[thing.id]?.points ?? []]);
  return null;
}

/** The outline of a board, or of what stands below the boards. */
export function outlineOf(layout: Layout, thing: Thing): { x: number; y: number }[] | undefined {
  if (thing.kind === "board") return layout.boards?.[thing.id]?.outline;
  return thing.kind === "obstacle" ? layout.obstacles?.[thing.id]?.outline : undefined;
}
