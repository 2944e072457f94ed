import { type Entry, lastBefore, type Trace } from "../../store/evening";

/** What happens all the time, and is told when asked for; and what is marked along the axis. */
export const isQuiet = (e: Entry) => e.kind === "arrives" || e.kind === "waits";
const LOUD = new Set(["opens", "knot", "fault", "restart loop", "in vain", "short not seen"]);
export const isLoud = (e: Entry) => LOUD.has(e.kind);

/** A log entry and what it follows from, down to the root. */
export function chain(trace: Trace, entry: Entry): Entry[] {
  const found: Entry[] = [];
  let at: Entry | undefined = entry;
  while (at && !found.includes(at) && found.length < 12) {
    found.push(at);
    at = at.cause === null || at.cause === undefined ? undefined : trace.entries[at.cause];
  }
  return found;
}

/** The last entry about something up to a moment. */
export function latest(trace: Trace, t: number, about: (e: Entry) => boolean): Entry | undefined {
  for (let k = lastBefore(trace.entries, (n) => trace.entries[n]?.t ?? 0, t + 0.001); k >= 0; k--) {
    const entry = trace.entries[k];
    if (entry && about(entry)) return entry;
  }
  return undefined;
}

/** A sampled figure at a moment. */
export function sampled<T>(trace: Trace, row: T[] | undefined, t: number): T | undefined {
  return row?.[
    Math.max(
      0,
      lastBefore(trace.times, (k) => trace.times[k] ?? 0, t),
    )
  ];
}
