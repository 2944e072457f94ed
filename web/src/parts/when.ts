const DAY = { day: "numeric", month: "short" } as const;

/** A day for a person: 29 Nov. */
export const dayOf = (time: string) => new Date(time).toLocaleDateString([], DAY);

/** A day and time for a person: 29 Nov, 14:10. */
export const momentOf = (time: string) =>
  new Date(time).toLocaleString([], { ...DAY, hour: "2-digit", minute: "2-digit" });
