import { read, write } from "./store";

const PATIENCE_MS = 8000;

/** What a phone has said and the club's computer has not taken yet: kept on the phone, oldest first, sent in turn. */
export function outbox<Entry extends { id: string }>(
  key: (layout: string) => string,
  send: (layout: string, entries: Entry[], signal: AbortSignal) => Promise<void>,
) {
  let sending = false;
  return {
    waiting: (layout: string) => read<Entry[]>(key(layout), []),
    /** Adds an entry; what another tab has added meanwhile stays. Answers all that wait. */
    add: (layout: string, entry: Entry, known: Entry[]) => {
      const waiting = [...read<Entry[]>(key(layout), known), entry];
      write(key(layout), waiting);
      return waiting;
    },
    /** Sends what waits. Answers what still does; null where nothing was sent, and why in words where it was refused. */
    flush: async (layout: string, waiting: Entry[]): Promise<{ left: Entry[] } | { wrong: string } | null> => {
      if (sending || !waiting.length) return null;
      sending = true;
      try {
        const sent = waiting.slice(0, 200);
        await send(layout, sent, AbortSignal.timeout(PATIENCE_MS));
        const gone = new Set(sent.map((e) => e.id));
        const left = read<Entry[]>(key(layout), waiting).filter((e) => !gone.has(e.id));
        write(key(layout), left);
        return { left };
      } catch (error) {
        return { wrong: (error as Error).message };
      } finally {
        sending = false;
      }
    },
  };
}
