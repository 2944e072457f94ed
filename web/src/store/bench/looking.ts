import { keep, kept } from "./kept";
import type { Slice } from "./slice";

/** What is looked at: the step, its tab and look, the scene, the theme, what lies open over the bench. */
export const LOOKS = ["track", "volts", "coin", "phase", "reversing", "zones", "cabs", "blocks", "signals"] as const;
export type Look = (typeof LOOKS)[number];
/** In the order the work is best done; the table is a view of the step Wire, sums need no layout. */
export const STEPS = [
  "brief",
  "track",
  "reverse",
  "trains",
  "zones",
  "cabs",
  "detect",
  "signal",
  "wire",
  "table",
  "travel",
  "rehearse",
  "book",
  "bench",
] as const;
export type Step = (typeof STEPS)[number] | "sums";
/** Pages beside the steps. */
export type Page = "bench" | "layouts";

export type Looking = {
  page: Page;
  step: Step;
  /** The tab last open of every step that has tabs. */
  tabs: Partial<Record<Step, string>>;
  look: Look;
  /** The look last used in every step. */
  looks: Partial<Record<Step, Look>>;
  scene: string | null;
  theme: "light" | "dark";
  /** Doublings of pixels per mm, in halves: what must keep its width on screen is drawn anew when it changes. */
  bucket: number;
  finder: boolean;
  /** Whether a new layout is being begun. */
  beginning: boolean;
  /** The dialog of the club file and its helpers: which side of it is open. */
  club: "file" | "helpers" | null;
};

/** The look a step begins with. */
const USUAL: Partial<Record<Step, Look>> = {
  track: "track",
  reverse: "reversing",
  zones: "zones",
  cabs: "cabs",
  detect: "blocks",
  signal: "signals",
  travel: "track",
  rehearse: "signals",
  bench: "track",
};
/** Steps about stretches of track rather than one point: a point picked elsewhere is let go. */
const NO_POINT: Step[] = ["reverse", "zones", "detect", "signal", "travel", "rehearse"];

export const oneOf = <T extends string>(value: string | null | undefined, all: readonly T[], otherwise: T) =>
  value && (all as readonly string[]).includes(value) ? (value as T) : otherwise;

export const looking: Slice<Looking> = () => ({
  page: "bench",
  step: "wire",
  tabs: {},
  look: oneOf<Look>(kept("look"), LOOKS, "volts"),
  looks: {},
  scene: kept("scene"),
  theme: oneOf<"light" | "dark">(
    kept("theme"),
    ["light", "dark"],
    matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light",
  ),
  bucket: 0,
  finder: false,
  beginning: false,
  club: null,
});

/** What else changes with a step or a look: each step has a look of its own, and keeps it. */
export function withLook(now: Looking, part: Partial<Looking>): Partial<Looking & { picked: null }> {
  for (const key of ["look", "scene", "theme"] as const) if (part[key]) keep(key, part[key]);
  const step = part.step ?? now.step;
  const page = part.step ? { page: "bench" as const } : {};
  if (part.look) return { ...page, looks: { ...now.looks, [step]: part.look } };
  if (step === now.step) return page;
  const look = now.looks[step] ?? USUAL[step] ?? (now.look === "coin" ? "coin" : "volts");
  return { ...page, look, looks: { ...now.looks, [step]: look }, ...(NO_POINT.includes(step) ? { picked: null } : {}) };
}
