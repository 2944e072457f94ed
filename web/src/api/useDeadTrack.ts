import { useCallback, useEffect, useRef, useState } from "react";
import type { Shape } from "./client";
import { useWhere } from "./queries";
import { streamed } from "./stream";

type Step = { found?: Shape["DeadShape"]; done?: number; total?: number };

/** Stretches some setting leaves dead, each as its remedy is found. What came before a stop is kept. */
export function useDeadTrack(wanted: boolean) {
  const { id, revision, scene } = useWhere();
  const [found, setFound] = useState<Shape["DeadShape"][]>([]);
  const [doing, setDoing] = useState<[number, number] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [stopped, setStopped] = useState(false);
  const line = useRef<AbortController | null>(null);
  const start = useCallback(async () => {
    const mine = new AbortController();
    line.current?.abort();
    line.current = mine;
    setWrong(null);
    setStopped(false);
    setDoing([0, 0]);
    const rows: Shape["DeadShape"][] = [];
    const query = `revision=${revision}${scene ? `&scene=${encodeURIComponent(scene)}` : ""}`;
    try {
      const answer = await streamed<{ stretches: Shape["DeadShape"][] }, Step>(
        `/api/layouts/${id}/dead-track?${query}`,
        (step) => {
          if (mine.signal.aborted) return;
          if (step.found) rows.push(step.found);
          setFound([...rows]);
          setDoing([step.done ?? 0, step.total ?? 0]);
        },
        mine.signal,
      );
      setFound(answer.stretches);
    } catch (error) {
      if (!mine.signal.aborted) setWrong((error as Error).message);
    } finally {
      if (line.current === mine) setDoing(null);
    }
  }, [id, revision, scene]);
  useEffect(() => {
    if (wanted && id && revision) void start();
    return () => line.current?.abort();
  }, [wanted, id, revision, start]);
  return {
    found,
    doing,
    wrong,
    stopped,
    again: start,
    stop: () => {
      line.current?.abort();
      line.current = null;
      setStopped(true);
      setDoing(null);
    },
  };
}
