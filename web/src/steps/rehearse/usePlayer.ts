import { useEffect } from "react";
import { SPEEDS, useEvening } from "../../store/evening";
import { isQuiet } from "./about";
import { DRIVES } from "./ByHand";
import { act, goTo } from "./run";

const calm = matchMedia("(prefers-reduced-motion: reduce)");
/** Whoever asked for less motion sees a moment every so often, ms, and no glide. */
const MOMENT = 250;

/** Lets the evening go on while it plays, as far as it is worked out. */
export function usePlayer() {
  const playing = useEvening((s) => s.playing);
  useEffect(() => {
    if (!playing) return;
    let last = performance.now();
    let frame = 0;
    let rest = 0;
    const next = () => {
      if (calm.matches) rest = window.setTimeout(() => go(performance.now()), MOMENT);
      else frame = requestAnimationFrame(go);
    };
    const go = (time: number) => {
      const { now, speed, trace, running } = useEvening.getState();
      const until = trace?.until ?? 0;
      const then = Math.min(until, now + ((time - last) / 1000) * speed);
      last = time;
      if (then !== now) useEvening.setState({ now: then });
      if (then >= until && !running) {
        useEvening.setState({ playing: false });
        return;
      }
      next();
    };
    next();
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(rest);
    };
  }, [playing]);

  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest("input, select, textarea, [role=dialog]")) return;
      const { trace, playing: on, speed, now, set } = useEvening.getState();
      if (!trace) return;
      if (event.key === " " && !target.closest("button")) {
        event.preventDefault();
        set({ playing: !on });
      } else if (event.key === ",") step(-1);
      else if (event.key === ".") step(1);
      else if (event.key === "<" || event.key === ">") {
        const k = SPEEDS.indexOf(speed as (typeof SPEEDS)[number]) + (event.key === ">" ? 1 : -1);
        set({ speed: SPEEDS[Math.min(Math.max(k, 0), SPEEDS.length - 1)] ?? speed });
      } else if (event.key === "j") useEvening.getState().seek(now - 10);
      else if (event.key === "k") useEvening.getState().seek(now + 10);
      else drive(event.key);
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  }, []);
}

/** A train that is asked about and runs by hand is driven by keys. */
function drive(key: string) {
  const { about, ran, now } = useEvening.getState();
  const does = DRIVES.find(([, , letter]) => letter === key)?.[0];
  if (!does || about?.kind !== "train" || ran?.trains?.[about.id]?.by !== "hand") return;
  void act({ does, seconds: Math.floor(now), train: about.id });
}

/** To the next, or the last, thing that happened besides trains coming and waiting. */
export function step(way: 1 | -1) {
  const { trace, now } = useEvening.getState();
  const loud = trace?.entries.filter((e) => !isQuiet(e)) ?? [];
  const next = way > 0 ? loud.find((e) => e.t > now + 0.6) : loud.findLast((e) => e.t < now - 0.6);
  if (!next) return;
  useEvening.setState({ about: { kind: "entry", id: String(next.n) } });
  goTo(next.t, next.track, next.at);
}
