import type { Answers } from "../api/client";
import type { Look } from "../store/bench";
import { pathOf, slice } from "./geometry";

/** Blue-green through straw to oxide: told apart with the common kinds of colour blindness, and by lightness alone. */
const RAMP: [number, number, number][] = [
  [27, 94, 122],
  [98, 166, 174],
  [234, 220, 178],
  [217, 142, 53],
  [158, 42, 31],
];
export const BUCKETS = 28;
/** A short of this many times the trip is as good as it need be; below one it does not trip at all. */
export const COIN_BEST = 3;

export function ramp(share: number): string {
  const t = Math.min(Math.max(share, 0), 1) * (RAMP.length - 1);
  const i = Math.min(Math.floor(t), RAMP.length - 2);
  const [a, b] = [RAMP[i] ?? [0, 0, 0], RAMP[i + 1] ?? [0, 0, 0]];
  const mix = [0, 1, 2].map((k) => Math.round((a[k] ?? 0) + ((b[k] ?? 0) - (a[k] ?? 0)) * (t - i)));
  return `rgb(${mix.join(" ")})`;
}

export const RAMP_CSS = `linear-gradient(90deg, ${RAMP.map((c) => `rgb(${c.join(" ")})`).join(", ")})`;
export const RAMP_CSS_BACK = `linear-gradient(270deg, ${RAMP.map((c) => `rgb(${c.join(" ")})`).join(", ")})`;

export type Inked = { colour: string; path: string }[];
export type Inks = { inked: Inked; dead: string; beyond: string };

/** The share of source volts at the dark end of the ramp: the worst there is, and never less than a tenth. */
export function darkest(answers: Answers): number {
  let most = 0.1;
  for (const s of Object.values(answers.samples)) for (const v of s.lost) if (v !== null && v > most) most = v;
  return Math.min(most, 1);
}

/** Track of one look, as one path per colour; what is dead; and what is beyond the house rule. */
export function inkTracks(answers: Answers, look: Look): Inks {
  if (look === "track")
    return {
      inked: [{ colour: "var(--plain)", path: Object.values(answers.tracks).map(pathOf).join("") }],
      dead: "",
      beyond: "",
    };
  const full = darkest(answers);
  const buckets: string[] = Array(BUCKETS).fill("");
  let dead = "";
  let beyond = "";
  for (const [id, samples] of Object.entries(answers.samples)) {
    const drawn = answers.tracks[id];
    if (!drawn) continue;
    const values = look === "volts" ? samples.lost : samples.ratio;
    const over = look === "volts" ? samples.low : samples.weak;
    const bucket = (k: number) => {
      const v = values[k];
      if (v === null || v === undefined) return -1;
      const share = look === "volts" ? v / full : (COIN_BEST - v) / (COIN_BEST - 1);
      return Math.min(Math.max(Math.floor(share * BUCKETS), 0), BUCKETS - 1);
    };
    const draw = (from: number, to: number, which: (k: number) => number, add: (b: number, path: string) => void) => {
      let start = from;
      for (let k = from; k < to; k++) {
        const ends = k + 1 === to || which(k + 1) !== which(start);
        const a = samples.at[start] ?? 0;
        const b = samples.at[k + 1] ?? a;
        if (ends) {
          if (b > a) add(which(start), slice(drawn, a, b));
          start = k + 1;
        }
      }
    };
    draw(0, samples.at.length - 1, bucket, (b, path) => {
      if (b < 0) dead += path;
      else buckets[b] += path;
    });
    draw(
      0,
      samples.at.length - 1,
      (k) => (over[k] ? 1 : 0),
      (b, path) => {
        if (b) beyond += path;
      },
    );
  }
  const inked = buckets.map((path, k) => ({ colour: ramp((k + 0.5) / BUCKETS), path })).filter((i) => i.path);
  return { inked, dead, beyond };
}
