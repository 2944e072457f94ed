import { type PointerEvent, useRef, useState } from "react";
import type { Answers, Layout } from "../../api/client";
import { lengthText } from "../../parts/units";
import { type Thing, useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { outlineOf } from "../showing";
import { type Act, curve, type Vertex } from "./arc";
import { catchAt } from "./caught";
import type { Caught, Ghost } from "./kinds";
import { tablesOf } from "./useTool";

type Where = { x: number; y: number; mmPerPx: number };
type Drag = { handle: string; from: Where; here: Caught; moved: boolean };
type Box = { from: Where; here: Where };

/** Dragging what is drawn: nodes, bends, board corners, devices; and with Shift a box that chooses what is in it. */
export function useDrag(answers: Answers | undefined, layout: Layout | undefined) {
  // What is going on lives in refs: a quick hand lets go before the screen has caught up.
  const dragging = useRef<Drag | null>(null);
  const boxing = useRef<Box | null>(null);
  const [, redraw] = useState(0);
  const setDrag = (next: Drag | null) => {
    dragging.current = next;
    redraw((n) => n + 1);
  };
  const setBox = (next: Box | null) => {
    boxing.current = next;
    redraw((n) => n + 1);
  };
  const swallow = useRef(false);
  const draw = useLayout((s) => s.draw);
  const edit = useLayout((s) => s.edit);

  const down = (event: PointerEvent, where: Where) => {
    swallow.current = false;
    if (event.button) return;
    const element = event.target as Element;
    const handle =
      element.closest?.("[data-handle]")?.getAttribute("data-handle") ??
      element.closest?.('[data-thing^="node:"],[data-thing^="device:"]')?.getAttribute("data-thing");
    if (handle && !event.shiftKey) {
      setDrag({ handle, from: where, here: where, moved: false });
    } else if (event.shiftKey) {
      setBox({ from: where, here: where });
      event.currentTarget.setPointerCapture(event.pointerId);
    }
  };

  const move = (event: PointerEvent, where: Where) => {
    const [drag, box] = [dragging.current, boxing.current];
    if (box) setBox({ ...box, here: where });
    if (!drag || !answers || !layout) return;
    const far = Math.hypot(where.x - drag.from.x, where.y - drag.from.y) > 4 * where.mmPerPx;
    let here: Caught = where;
    const [kind, id = ""] = drag.handle.split(":");
    if (kind === "node" && openEnd(answers, id)) {
      const own = tracksAt(layout, id);
      here = catchAt(answers, where, ["node", "track"], {}, tablesOf(layout), { node: id, tracks: own });
    }
    if (kind === "tie") here = catchAt(answers, where, ["terminal"], {}, {});
    // Only a real drag takes the pointer: a mere click must still reach what it is on.
    if (far && !drag.moved) event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ ...drag, here, moved: drag.moved || far });
  };

  const up = () => {
    const [drag, box] = [dragging.current, boxing.current];
    if (box && answers && layout) {
      const wide = Math.abs(box.here.x - box.from.x) + Math.abs(box.here.y - box.from.y) > 6 * box.here.mmPerPx;
      if (wide) {
        swallow.current = true;
        useBench.getState().chooseAll(inside(answers, layout, box));
      }
    }
    setBox(null);
    if (!drag) return;
    setDrag(null);
    if (!drag.moved || !layout) return;
    swallow.current = true;
    const dx = Math.round((drag.here.x - drag.from.x) * 100) / 100;
    const dy = Math.round((drag.here.y - drag.from.y) * 100) / 100;
    const [kind, id = "", index = "0"] = drag.handle.split(":");
    const { x, y } = drag.here;
    if (kind === "corner") {
      const map = drag.handle.endsWith(":obstacle") ? "obstacles" : "boards";
      const thing = layout[map]?.[id];
      const outline = thing?.outline.map((p, k) => (k === Number(index) ? { x, y } : p));
      if (outline)
        void edit(`Shape ${map === "boards" ? "board " : ""}${thing?.name}`, [
          { op: "replace", path: `/${map}/${id}/outline`, value: outline },
        ]);
      return;
    }
    let act: Act | null = null;
    if (kind === "bend") act = { act: "move bend", track: id, index: Number(index), x, y };
    else if (kind === "mid")
      act = { act: "insert bend", track: id, at: Number(index), leg: Number(drag.handle.split(":")[3] ?? 0), x, y };
    else if (kind === "run-bend") act = { act: "bend run", run: id, index: Number(index), x, y };
    else if (kind === "run-mid") act = { act: "bend run", run: id, leg: Number(index), x, y };
    else if (kind === "terminal" || kind === "plug") act = { act: "slide", what: kind, id, x, y };
    else if (kind === "tie" && drag.here.terminal) act = { act: "retie", feeder: id, terminal: drag.here.terminal };
    else if (kind === "node" && (drag.here.node || drag.here.track))
      act = {
        act: "weld",
        node: id,
        spot: { x, y, node: drag.here.node ?? null, track: drag.here.track ?? null, at: drag.here.at ?? null },
      };
    else if (kind === "node" || kind === "device" || kind === "board" || kind === "obstacle")
      act = { act: "move", things: moving({ kind, id } as Thing) as never, dx, dy };
    if (act) void draw(act);
  };

  return {
    down,
    move,
    up,
    busy: () => dragging.current !== null || boxing.current !== null,
    swallow,
    box: boxing.current,
    ghosts: dragging.current?.moved && layout ? ghostsOf(dragging.current, layout) : [],
  };
}

/** What moves with a dragged thing: everything chosen when it is one of them. */
function moving(thing: Thing): Thing[] {
  const { chosen } = useBench.getState();
  const among = chosen.some((c) => c.kind === thing.kind && c.id === thing.id);
  const movable = ["node", "track", "board", "obstacle", "device", "run"];
  return among && chosen.length > 1 ? chosen.filter((c) => movable.includes(c.kind)) : [thing];
}

function openEnd(answers: Answers, id: string) {
  const n = answers.nodes[id];
  return n !== undefined && (n.kind === "joint" || n.kind === "bumper") && Object.keys(n.leaves).length === 1;
}

function tracksAt(layout: Layout, node: string): string[] {
  return Object.entries(layout.tracks ?? {})
    .filter(([, t]) => t.a.node === node || t.b.node === node)
    .map(([id]) => id);
}

function inside(answers: Answers, layout: Layout, box: Box): Thing[] {
  const [x0, x1] = [Math.min(box.from.x, box.here.x), Math.max(box.from.x, box.here.x)];
  const [y0, y1] = [Math.min(box.from.y, box.here.y), Math.max(box.from.y, box.here.y)];
  const within = (x: number, y: number) => x >= x0 && x <= x1 && y >= y0 && y <= y1;
  const found: Thing[] = [];
  for (const [id, t] of Object.entries(answers.tracks)) {
    let all = true;
    for (let k = 0; k + 1 < t.points.length && all; k += 2) all = within(t.points[k] ?? 0, t.points[k + 1] ?? 0);
    if (all) found.push({ kind: "track", id });
  }
  for (const [id, b] of Object.entries(layout.boards ?? {}))
    if (b.outline.every((p) => within(p.x, p.y))) found.push({ kind: "board", id });
  for (const [id, o] of Object.entries(layout.obstacles ?? {}))
    if (o.outline.every((p) => within(p.x, p.y))) found.push({ kind: "obstacle", id });
  for (const [id, d] of Object.entries(layout.devices ?? {}))
    if (within(d.at.x, d.at.y)) found.push({ kind: "device", id });
  return found;
}

function ghostsOf(drag: Drag, layout: Layout): Ghost[] {
  const metric = layout.brief?.units === "metric";
  const [kind, id = "", index = "0"] = drag.handle.split(":");
  const { x, y } = drag.here;
  const path = layout.tracks?.[id]?.path as Vertex[] | undefined;
  const one = (vertices: Vertex[]): Ghost[] => {
    const drawn = curve(vertices);
    const lines = [lengthText(drawn.length, metric)];
    if (drawn.tightest) lines.push(`radius ${lengthText(drawn.tightest, metric)}`);
    return [
      { kind: "line", points: drawn.points },
      { kind: "label", x, y, lines },
    ];
  };
  if (kind === "bend" && path) return one(path.map((v, k) => (k === Number(index) ? { ...v, x, y } : v)));
  if (kind === "mid" && path) {
    const leg = Number(drag.handle.split(":")[3] ?? 0);
    return one([...path.slice(0, leg + 1), { x, y }, ...path.slice(leg + 1)]);
  }
  if (kind === "run-bend" || kind === "run-mid") {
    const run = layout.runs?.[id]?.path as Vertex[] | undefined;
    const k = Number(index);
    if (run)
      return one(
        kind === "run-bend"
          ? run.map((v, n) => (n === k ? { ...v, x, y } : v))
          : [...run.slice(0, k + 1), { x, y }, ...run.slice(k + 1)],
      );
  }
  if (kind === "tie") {
    const from = { x: drag.from.x, y: drag.from.y };
    return [
      {
        kind: "line",
        points: [
          [from.x, from.y],
          [x, y],
        ],
      },
      { kind: "dot", x, y, caught: Boolean(drag.here.terminal) },
    ];
  }
  if (kind === "corner") {
    const from = drag.handle.endsWith(":obstacle") ? layout.obstacles?.[id] : layout.boards?.[id];
    const outline = from?.outline.map((p, k) => (k === Number(index) ? { x, y } : p)) ?? [];
    const points = [...outline, ...outline.slice(0, 1)].map((p) => [p.x, p.y] as [number, number]);
    return [{ kind: "line", points, tone: "board" }];
  }
  const [dx, dy] = [x - drag.from.x, y - drag.from.y];
  const things = moving({ kind, id } as Thing);
  const nodes = new Set(things.filter((t) => t.kind === "node").map((t) => t.id));
  const tracks = new Set(things.filter((t) => t.kind === "track").map((t) => t.id));
  for (const t of tracks) {
    const value = layout.tracks?.[t];
    if (value) nodes.add(value.a.node).add(value.b.node);
  }
  const ghosts: Ghost[] = [{ kind: "dot", x, y, caught: Boolean(drag.here.node || drag.here.track) }];
  for (const [t, value] of Object.entries(layout.tracks ?? {})) {
    const ends = [nodes.has(value.a.node), nodes.has(value.b.node)];
    if (!ends[0] && !ends[1]) continue;
    const whole = tracks.has(t) || (ends[0] && ends[1] && things.length > 1);
    const shifted = (value.path as Vertex[]).map((v, k) =>
      (k === 0 && ends[0]) || (k === value.path.length - 1 && ends[1]) || whole
        ? { ...v, x: v.x + dx, y: v.y + dy }
        : v,
    );
    const drawn = curve(shifted);
    ghosts.push({ kind: "line", points: drawn.points });
    if (nodes.size === 1) ghosts.push({ kind: "label", x, y, lines: [lengthText(drawn.length, metric)] });
  }
  for (const thing of things) {
    const outline = outlineOf(layout, thing);
    if (outline)
      ghosts.push({
        kind: "line",
        tone: "board",
        points: [...outline, ...outline.slice(0, 1)].map((p) => [p.x + dx, p.y + dy]),
      });
  }
  return ghosts.slice(0, 400);
}
