import { useEffect, useRef, useState } from "react";
import { streamed } from "./stream";

type Counted = { done?: number; total?: number };

/** Work that a button starts: how far it is, what it answered, or why it could not be done; it can be stopped. */
export function useStreamed<Answer>() {
  const [done, setDone] = useState<[number, number] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const line = useRef<AbortController | null>(null);
  const stop = () => line.current?.abort();
  // Whoever leaves the step need not have it finished.
  useEffect(() => () => line.current?.abort(), []);
  const start = async (url: string): Promise<Answer | null> => {
    const mine = new AbortController();
    line.current?.abort();
    line.current = mine;
    setWrong(null);
    setDone([0, 0]);
    try {
      const told = (s: Counted) => setDone([s.done ?? 0, s.total ?? 0]);
      return await streamed<Answer, Counted>(url, told, mine.signal);
    } catch (error) {
      if (!mine.signal.aborted) setWrong((error as Error).message);
      return null;
    } finally {
      if (line.current === mine) setDone(null);
    }
  };
  return { done, wrong, start, stop };
}
