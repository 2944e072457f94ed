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

export const amps = (a: number) => (a < 0.9995 ? `${+(a * 1000).toFixed(0)} mA` : `${+a.toFixed(2)} A`);
