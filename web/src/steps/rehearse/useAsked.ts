import { useEffect, useRef, useState } from "react";
import { streamed } from "../../api/stream";

/** Something asked for that takes a while: what it told last, what it answered, why it could not; it can be stopped. */
export function useAsked<Answer, Step extends object>() {
  const [busy, setBusy] = useState(false);
  const [step, setStep] = useState<Step | null>(null);
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const line = useRef<AbortController | null>(null);
  useEffect(() => () => line.current?.abort(), []);
  const stop = () => {
    line.current?.abort();
    setBusy(false);
  };
  const ask = async (url: string, body: object) => {
    const mine = new AbortController();
    line.current?.abort();
    line.current = mine;
    setBusy(true);
    setStep(null);
    setAnswer(null);
    setWrong(null);
    try {
      const got = await streamed<Answer, Step>(url, (s) => !mine.signal.aborted && setStep(s), mine.signal, body);
      if (!mine.signal.aborted) setAnswer(got);
    } catch (error) {
      if (!mine.signal.aborted) setWrong((error as Error).message);
    } finally {
      if (line.current === mine) setBusy(false);
    }
  };
  return { busy, step, answer, wrong, ask, stop };
}
