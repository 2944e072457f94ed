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
    /**
     * Sends what waits, and what is added meanwhile, until none is left or one sending fails: then why, in words.
     * `known` tells what the page holds, for a phone that keeps nothing. Null where nothing was to be sent.
     */
    flush: async (layout: string, known: () => Entry[]): Promise<{ left: Entry[]; wrong: string | null } | null> => {
      if (sending || !known().length) return null;
      sending = true;
      const taken = new Set<string>();
      const left = () => read<Entry[]>(key(layout), known()).filter((e) => !taken.has(e.id));
      try {
        for (let sent = left().slice(0, 200); sent.length; sent = left().slice(0, 200)) {
          await send(layout, sent, AbortSignal.timeout(PATIENCE_MS));
          for (const e of sent) taken.add(e.id);
          write(key(layout), left());
        }
        return { left: left(), wrong: null };
      } catch (error) {
        return { left: left(), wrong: (error as Error).message };
      } finally {
        sending = false;
      }
    },
  };
}
