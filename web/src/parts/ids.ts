/** An id for a new thing from its name, one that no other has. */
export function freeId(name: string, taken: Record<string, unknown> | undefined): string {
  const plain =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^[^a-z]+|-+$/g, "")
      .slice(0, 34) || "new";
  let id = plain;
  for (let k = 2; taken?.[id]; k++) id = `${plain}-${k}`;
  return id;
}

/** The number of the next thing of a kind, whose ids are a prefix and a number: one over the highest there is. */
export function nextNumber(prefix: string, taken: Record<string, unknown> | undefined): number {
  const numbers = Object.keys(taken ?? {}).map((key) => Number(key.startsWith(prefix) ? key.slice(prefix.length) : 0));
  return Math.max(0, ...numbers.filter(Number.isInteger)) + 1;
}
