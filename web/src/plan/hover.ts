import type { Answers, Layout, Shape } from "../api/client";
import type { Look, Thing } from "../store/bench";

const PHASE = { A: "conductor A", B: "conductor B", none: "nothing", clash: "both conductors: a short" } as const;

/** What the plan says of a place on a track. */
export function aboutTrack(
  answers: Answers,
  layout: Layout,
  rails: Shape["RailsShape"] | undefined,
  look: Look,
  track: string,
  at: number,
): string[] {
  const name = layout.tracks?.[track]?.name ?? track;
  const drawn = answers.tracks[track];
  if (look === "phase" || look === "reversing") {
    const piece = rails?.pieces.find((p) => p.track === track && at >= p.start && at <= p.end);
    if (piece)
      return [
        `Left ${PHASE[piece.left as keyof typeof PHASE]}, right ${PHASE[piece.right as keyof typeof PHASE]}`,
        `${name}${piece.turns ? ", turned by a reverser" : ""}`,
      ];
  }
  if (look === "track")
    return [
      name,
      `${drawn?.length_text ?? ""}${drawn?.radius_text ? `, radius ${drawn.radius_text}${drawn.tight ? ", tight" : ""}` : ""}`,
    ];
  const samples = answers.samples[track];
  if (!samples) return [name];
  let k = 0;
  while (k + 1 < samples.at.length && (samples.at[k + 1] ?? 0) <= at) k++;
  const volts = samples.volts[k];
  const ratio = samples.ratio[k];
  if (volts === null || volts === undefined) return ["No volts here", name];
  if (look === "coin")
    return [`${samples.coin[k]?.toFixed(1)} A into a short${ratio ? `, ${ratio.toFixed(2)} × the trip` : ""}`, name];
  return [`${volts.toFixed(1)} V at the wheel, ${((samples.lost[k] ?? 0) * 100).toFixed(0)} % down`, name];
}

/** What the plan says of a thing. */
export function aboutThing(answers: Answers, layout: Layout, { kind, id }: Thing): string[] {
  const load = answers.loads[`${kind}:${id}`];
  if (kind === "run") {
    const run = layout.runs?.[id];
    return [
      `Bus ${run?.label}, ${run?.gauge}`,
      `${answers.runs[id]?.length_text}, up to ${load?.scene_text ?? "no source"}`,
    ];
  }
  if (kind === "feeder") {
    const feeder = layout.feeders?.[id];
    return [
      `Feeder ${feeder?.label}, ${feeder?.gauge}`,
      `${answers.feeders[id]?.length_text}, up to ${load?.scene_text ?? "no source"}`,
    ];
  }
  if (kind === "device") {
    const device = layout.devices?.[id];
    return [device?.name ?? id, `${device?.kind}${device?.trip_amps ? `, trips at ${device.trip_amps} A` : ""}`];
  }
  if (kind === "signal") {
    const signal = layout.signals?.[id];
    return [`Signal ${signal?.name ?? id}`, signal?.kind ?? ""];
  }
  if (kind === "detector" || kind === "driver") {
    const board = kind === "detector" ? layout.detectors?.[id] : layout.drivers?.[id];
    return [board?.name ?? id, `${kind === "detector" ? "detector board" : "driver board"}, from ${board?.address}`];
  }
  if (kind === "terminal") return [`Terminal ${id}`, layout.terminals?.[id]?.kind ?? ""];
  if (kind === "load") {
    const thing = layout.loads?.[id];
    return [thing?.name ?? id, `${thing?.count ?? 1} × ${thing?.kind}`];
  }
  if (kind === "gap") {
    const rails = layout.gaps?.[id]?.rails;
    return [`Gap ${id}`, rails === "both" ? "both rails" : `${rails} rail`];
  }
  if (kind === "node") {
    const node = layout.nodes?.[id];
    const drawn = answers.nodes[id];
    const ends = Object.keys(drawn?.leaves ?? {}).length;
    if (node?.kind === "joint") return [ends < 2 ? `Open end ${id}` : `Joint ${id}`];
    const set = node?.kind === "turnout" || node?.kind === "three-way" ? `, set ${node.lies}` : "";
    return [`${node?.name ?? id}`, `${node?.kind}${set}`];
  }
  return [`Plug ${id}`];
}
