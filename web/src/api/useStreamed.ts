import { useState } from "react";
import { streamed } from "./stream";

type Counted = { done?: number; total?: number };

/** Work that a button starts: how far it is, what it answered, or why it could not be done. */
export function useStreamed<Answer>() {
  const [done, setDone] = useState<[number, number] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const start = async (url: string): Promise<Answer | null> => {
    setWrong(null);
    setDone([0, 0]);
    try {
      return await streamed<Answer, Counted>(url, (s) => setDone([s.done ?? 0, s.total ?? 0]));
    } catch (error) {
      setWrong((error as Error).message);
      return null;
    } finally {
      setDone(null);
    }
  };
  return { done, wrong, start };
}
