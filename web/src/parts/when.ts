const DAY = { day: "numeric", month: "short" } as const;

/** A day for a person: 29 Nov. */
export const dayOf = (time: string) => new Date(time).toLocaleDateString([], DAY);

/** A day and time for a person: 29 Nov, 14:10. */
export const momentOf = (time: string) =>
  new Date(time).toLocaleString([], { ...DAY, hour: "2-digit", minute: "2-digit" });

/** The day it is here, as the layout keeps days: 2026-11-29. */
export function today(): string {
  const now = new Date();
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
}
