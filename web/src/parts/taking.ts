/** Fields whose words are still being read: a button pressed right after typing waits for them. */
const reading = new Set<Promise<boolean>>();

/** Told by a field while it takes what is typed; the promise answers whether it was taken. */
export function whileTaking(taking: Promise<boolean>) {
  reading.add(taking);
  void taking.finally(() => reading.delete(taking));
}

/** Once all that was typed has been read; false where a field could not take its words and says so beside itself. */
export async function allTaken(): Promise<boolean> {
  return (await Promise.all(reading)).every(Boolean);
}
