import { create } from "zustand";
import type { Shape } from "../api/client";

/** One stretch of a way: track, from, to (mm from its A end), and where it begins along the way. */
export type WaySpan = [string, number, number, number];
/** From time t at place s with v, changing by a. */
export type Phase = [number, number, number, number];
export type Entry = {
  n: number;
  t: number;
  kind: string;
  words: string;
  train: string | null;
  device: string | null;
  head: string | null;
  node: string | null;
  track: string | null;
  at: number | null;
  cause: number | null;
  others: string[];
};
type Change =
  | { t: number; what: "L"; id: number; value: boolean }
  | { t: number; what: "H" | "T" | "D"; id: string; value: string };
/** A train's ways: each begins anew when it turned. */
type Epoch = { t: number; spans: WaySpan[] };
export type Course = { epochs: Epoch[]; motions: { t: number; phases: Phase[] }[] };

/** Everything that a rehearsal has told so far. It grows in place: `grown` counts up when it has. */
export type Trace = {
  opening: Shape["OpeningShape"];
  until: number;
  courses: Record<string, Course>;
  changes: Change[];
  entries: Entry[];
  times: number[];
  amps: number[][];
  volts: (number | null)[][];
};

export const newTrace = (opening: Shape["OpeningShape"]): Trace => ({
  opening,
  until: 0,
  courses: Object.fromEntries(opening.trains.map((t) => [t.key, { epochs: [], motions: [] }])),
  changes: [],
  entries: [],
  times: [],
  amps: opening.devices.map(() => []),
  volts: opening.trains.map(() => []),
});

type Line = [string, number, ...unknown[]];

/** Takes lines as they come into what is known. */
export function grow(trace: Trace, lines: Line[], until: number) {
  for (const line of lines) {
    const [what, t] = line;
    if (what === "S") {
      const [, , amps, volts] = line as [string, number, number[], (number | null)[]];
      trace.times.push(t);
      amps.forEach((a, k) => {
        trace.amps[k]?.push(a);
      });
      volts.forEach((v, k) => {
        trace.volts[k]?.push(v);
      });
    } else if (what === "M") {
      const [, , train, phases] = line as [string, number, string, Phase[]];
      trace.courses[train]?.motions.push({ t, phases });
    } else if (what === "W") {
      const [, , train, spans, fresh] = line as [string, number, string, WaySpan[], boolean];
      const course = trace.courses[train];
      const last = course?.epochs.at(-1);
      if (!course) continue;
      if (fresh || !last) course.epochs.push({ t, spans: [...spans] });
      else last.spans.push(...spans);
    } else if (what === "E") {
      const [, , kind, words, train, device, head, node, track, at, cause, others] = line as unknown as [
        string,
        number,
        string,
        string,
        ...(string | null)[],
      ];
      trace.entries.push({
        n: trace.entries.length,
        t,
        kind,
        words,
        train: train as string | null,
        device: device as string | null,
        head: head as string | null,
        node: node as string | null,
        track: track as string | null,
        at: at as unknown as number | null,
        cause: cause as unknown as number | null,
        others: others as unknown as string[],
      });
    } else trace.changes.push({ t, what, id: line[2], value: line[3] } as Change);
  }
  trace.until = Math.max(trace.until, until);
}

/** The last of a sorted list that is not after a time; -1 for none. */
export function lastBefore(list: { length: number }, time: (k: number) => number, t: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (time(middle) <= t) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Where a train is at a time: its front along its way, its speed, and the way it is on. */
export function whereIs(course: Course, t: number): { s: number; v: number; spans: WaySpan[] } | null {
  const epoch = course.epochs[lastBefore(course.epochs, (k) => course.epochs[k]?.t ?? 0, t)] ?? course.epochs[0];
  const motion = course.motions[lastBefore(course.motions, (k) => course.motions[k]?.t ?? 0, t)] ?? course.motions[0];
  if (!epoch || !motion) return null;
  const phases = motion.phases;
  let phase = phases[0];
  for (const p of phases) if (p[0] <= t) phase = p;
  if (!phase) return null;
  const d = Math.max(0, t - phase[0]);
  return {
    s: phase[1] + phase[2] * d + (phase[3] * d * d) / 2,
    v: Math.max(0, phase[2] + phase[3] * d),
    spans: epoch.spans,
  };
}

/** The stretches of track between two places of a way. */
export function under(spans: WaySpan[], from: number, to: number): [string, number, number][] {
  const found: [string, number, number][] = [];
  let k = Math.max(
    0,
    lastBefore(spans, (n) => spans[n]?.[3] ?? 0, from),
  );
  for (; k < spans.length; k++) {
    const span = spans[k];
    if (!span || span[3] >= to) break;
    const [track, start, finish, s] = span;
    const length = Math.abs(finish - start);
    const way = Math.sign(finish - start);
    const a = Math.max(from - s, 0);
    const b = Math.min(to - s, length);
    if (b > a) found.push([track, start + way * a, start + way * b]);
  }
  return found;
}

/** How everything stands at a moment, but for where trains are. */
export type Moment = {
  lit: Set<number>;
  heads: Record<string, string>;
  lies: Record<string, string>;
  open: Set<string>;
  turned: Set<string>;
  /** The next change that is not counted in yet. */
  next: number;
};

export const momentAt = (trace: Trace, t: number, from?: Moment): Moment => {
  const now: Moment = from ?? {
    lit: new Set(trace.opening.lit),
    heads: { ...trace.opening.heads },
    lies: { ...trace.opening.lies },
    open: new Set(),
    turned: new Set(),
    next: 0,
  };
  while (now.next < trace.changes.length) {
    const change = trace.changes[now.next];
    if (!change || change.t > t) break;
    now.next += 1;
    if (change.what === "L") {
      if (change.value) now.lit.add(change.id);
      else now.lit.delete(change.id);
    } else if (change.what === "H") now.heads[change.id] = change.value;
    else if (change.what === "T") now.lies[change.id] = change.value;
    else if (change.value === "open") now.open.add(change.id);
    else if (change.value === "closed") now.open.delete(change.id);
    else if (change.value === "turned") now.turned.add(change.id);
    else now.turned.delete(change.id);
  }
  return now;
};

export type Fault = NonNullable<Shape["RunningPlan"]["faults"]>[number];
export type Move = NonNullable<Shape["RunningPlan"]["moves"]>[number];
export type Plan = Shape["RunningPlan"];
export const SPEEDS = [1, 2, 5, 10, 20, 30, 60, 120, 200, 300] as const;

type Evening = {
  /** The layout and plan that ran. */
  layout: string;
  planId: string | null;
  /** The plan as it ran, with what was dropped into it. */
  ran: Plan | null;
  revision: number;
  trace: Trace | null;
  /** Counts up when the trace has grown. */
  grown: number;
  cameTo: Shape["CameTo"] | null;
  running: boolean;
  wrong: string | null;
  /** The moment that is shown, s; read by what draws, told to React only when it jumps or rests. */
  now: number;
  playing: boolean;
  speed: number;
  follow: string | null;
  /** What is asked about: a train, a device or a log entry. */
  about: { kind: "train" | "device" | "entry"; id: string } | null;
  /** The run before, for what was dropped: what it came to, and its plan. */
  before: { plan: Plan; cameTo: Shape["CameTo"] } | null;
  set: (part: Partial<Evening>) => void;
  seek: (t: number) => void;
};

export const useEvening = create<Evening>((set, get) => ({
  layout: "",
  planId: null,
  ran: null,
  revision: 0,
  trace: null,
  grown: 0,
  cameTo: null,
  running: false,
  wrong: null,
  now: 0,
  playing: false,
  speed: 60,
  follow: null,
  about: null,
  before: null,
  set: (part) => set(part),
  seek: (t) => set({ now: Math.min(Math.max(0, t), get().trace?.until ?? 0) }),
}));

/** A time of the evening as people say it: 1:12:05. */
export const clock = (t: number) =>
  `${Math.floor(t / 3600)}:${String(Math.floor(t / 60) % 60).padStart(2, "0")}:${String(Math.floor(t) % 60).padStart(2, "0")}`;
