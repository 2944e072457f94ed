import { type KeyboardEvent, useRef } from "react";
import { useAnswers, usePoint } from "../../api/queries";
import { type Thing, useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import type { useTool } from "./useTool";

const WALK_MM = 50;
const NUDGE_MM = 1;
const NUDGE_FAR_MM = 10;
const SETTLE_MS = 350;
const MOVABLE = ["node", "track", "board", "obstacle", "device", "run", "detector", "driver"];
const ERASABLE = [
  "node",
  "track",
  "board",
  "obstacle",
  "device",
  "run",
  "gap",
  "feeder",
  "section",
  "terminal",
  "plug",
  "signal",
  "detector",
  "driver",
];

type Doing = {
  pan: (x: number, y: number) => void;
  by: (factor: number) => void;
  fit: () => void;
  tool: ReturnType<typeof useTool>;
  drawing: boolean;
};

/** Takes what is chosen away, with what hangs on it. */
export function eraseChosen() {
  const { chosen, bend, set } = useBench.getState();
  const { draw } = useLayout.getState();
  if (bend) {
    void draw({ act: "delete bend", track: bend.track, index: bend.index });
    return set({ bend: null });
  }
  const things = chosen.filter((c) => ERASABLE.includes(c.kind));
  if (!things.length) return;
  void draw({ act: "erase", things: things as never });
  set({ selected: null, chosen: [], lit: [], picked: null });
}

/** Keys on the plan: moving the view, walking along the track, and for the tool in hand. */
export function usePlanKeys({ pan, by, fit, tool, drawing }: Doing) {
  const { data: answers } = useAnswers();
  const { data: point } = usePoint();
  const nudge = useRef({ dx: 0, dy: 0, timer: 0 });

  const walk = (mm: number) => {
    if (!point || !answers) return;
    const length = answers.tracks[point.track]?.length ?? 0;
    useBench.getState().set({
      picked: { track: point.track, at: Math.min(Math.max(point.at + mm, 0), length) },
      selected: { kind: "track", id: point.track },
      lit: [point.track],
    });
  };
  const push = (things: Thing[], dx: number, dy: number) => {
    const n = nudge.current;
    n.dx += dx;
    n.dy += dy;
    clearTimeout(n.timer);
    n.timer = window.setTimeout(() => {
      const act = { act: "move" as const, things: things as never, dx: n.dx, dy: n.dy };
      nudge.current = { dx: 0, dy: 0, timer: 0 };
      if (act.dx || act.dy) void useLayout.getState().draw(act);
    }, SETTLE_MS);
  };
  const arrow = (x: number, y: number, far: boolean) => {
    const things = useBench.getState().chosen.filter((c) => MOVABLE.includes(c.kind));
    const mm = far ? NUDGE_FAR_MM : NUDGE_MM;
    if (drawing && things.length && !tool.tool) push(things, x * mm, y * mm);
    else pan(-x * 60, -y * 60);
  };

  return (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const does: Record<string, () => void> = {
      ArrowLeft: () => arrow(-1, 0, event.shiftKey),
      ArrowRight: () => arrow(1, 0, event.shiftKey),
      ArrowUp: () => arrow(0, -1, event.shiftKey),
      ArrowDown: () => arrow(0, 1, event.shiftKey),
      "+": () => by(1.3),
      "=": () => by(1.3),
      "-": () => by(1 / 1.3),
      "0": fit,
      f: fit,
      "[": () => walk(-WALK_MM),
      "]": () => walk(WALK_MM),
    };
    if (drawing) {
      does.Enter = tool.finish;
      does.Backspace = () => (tool.tool ? tool.back() : eraseChosen());
      does.Delete = eraseChosen;
      if (tool.tool) does.Escape = tool.cancel;
    }
    if (does[event.key]) {
      event.preventDefault();
      does[event.key]?.();
    }
  };
}
