import type { ZoomTransform } from "d3-zoom";
import { type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { useAnswers, useDetection, useMoment, usePoint, useRails, useSignals } from "../api/queries";
import { useCabs } from "../steps/cabs/queries";
import { DROPPED, dropAt } from "../steps/rehearse/dropping";
import { type Kind, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { useTrainsOn } from "../store/trainsOn";
import { Backdrop } from "./Backdrop";
import { Chips, useBlockLabels } from "./Blocks";
import { useLeverLabels } from "./Cabs";
import { Copper } from "./Copper";
import { Grid, Rulers, ScaleBar } from "./Edges";
import { EveningTrains, followed, useEveningMoment } from "./Evening";
import { boxOf, nearest, within } from "./geometry";
import { Boards as ControlBoards, GhostHeads, Heads, Trains } from "./Heads";
import { aboutThing, aboutTrack } from "./hover";
import { Inks } from "./Inks";
import { Loads } from "./Loads";
import { BoardNames, Boards, Devices, Gaps, Names, Obstacles, PanelMarks } from "./Marks";
import { Nodes } from "./Nodes";
import { Proofs } from "./Proofs";
import { Proposed } from "./Proposed";
import { Spot, useSpot } from "./Spot";
import { boxFor } from "./showing";
import { TracedLines } from "./TracedLines";
import { throwTurnout } from "./throwing";
import { Ghosts } from "./tools/Ghosts";
import { Handles } from "./tools/Handles";
import { PLACES } from "./tools/kinds";
import { useDrag } from "./tools/useDrag";
import { usePlanKeys } from "./tools/usePlanKeys";
import { useTool } from "./tools/useTool";
import { useLabels } from "./useLabels";
import { useZoom } from "./useZoom";
import { keepView, lastView } from "./view";
import { ZoomButtons } from "./ZoomButtons";

const CATCH_PX = 13;
/** Beyond so many places where tracks meet, their marks wait until one comes near. */
const MANY_NODES = 400;
const MANY_TRACKS = 800;
/** Room for the name under a panel, as a share of the plan's height. */
const UNDER_PANELS = 0.08;
const EMPTY_BOX = { x0: -200, y0: -200, x1: 4000, y1: 2500 };
/** The last request to bring a thing into view that was answered, by whichever step's plan. */
let lastShown = 0;
type Hover = { x: number; y: number; lines: string[] };

/** The plan to scale. Everything drawn on it conducts, divides or protects; a click asks about it, a tool draws on it. */
export function Plan() {
  const layout = useLayout((s) => s.state?.document);
  const { data: answers, isPlaceholderData } = useAnswers();
  const { data: point } = usePoint();
  const { look, lit, picked, showing, select, choose, set, step, bucket, ghostInks, measure, paint } = useBench();
  const placing = useBench((s) => s.placing);
  const signalling = look === "signals" || step === "signal";
  const { data: detection } = useDetection(look === "blocks" || signalling);
  const { data: signals } = useSignals(look === "signals" || step === "track");
  const rehearsing = step === "rehearse";
  const evening = useEveningMoment(rehearsing);
  const still = useMoment(!rehearsing && (signalling || look === "blocks"));
  const moment = rehearsing ? evening : still;
  const ghostHeads = useBench((s) => s.ghostHeads);
  const toolName = useBench((s) => s.tool);
  const { data: rails } = useRails(
    look === "zones" || look === "phase" || look === "reversing" || step === "track" || step === "reverse",
  );
  const svg = useRef<SVGSVGElement>(null);
  const fitted = useRef<string | null>(null);
  const inner = useRef<SVGGElement>(null);
  const id = useLayout((s) => s.state?.id);
  const rest = (view: ZoomTransform | null) => id && fitted.current && keepView(id, step, view);
  const { go, fit, by, pan, moved, whole: inFull } = useZoom(svg, inner, rest);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [hover, setHover] = useState<Hover | null>(null);
  const bright = useMemo(() => new Set(lit), [lit]);
  const drawing = step === "track";
  // Places of the bench are marked by themselves.
  const inHand = useBench((b) => b.step === "bench" && b.proofs.length > 0);
  const tool = useTool(drawing, answers, layout);
  const drag = useDrag(answers, layout);

  const { tracks, runs } = answers ?? {};
  const outlines = layout?.boards;
  const backdrop = layout?.backdrop;
  const { devices, panels } = layout ?? {};
  const whole = useMemo(() => {
    if (!tracks || !runs) return null;
    const boards = Object.values(outlines ?? {}).map((b) => b.outline.flatMap((p) => [p.x, p.y]));
    const picture = backdrop
      ? [
          backdrop.x ?? 0,
          backdrop.y ?? 0,
          (backdrop.x ?? 0) + backdrop.width * (backdrop.mm_per_pixel ?? 10),
          (backdrop.y ?? 0) + backdrop.height * (backdrop.mm_per_pixel ?? 10),
        ]
      : [];
    const box = boxOf([
      ...boards,
      picture,
      ...Object.values(tracks).map((t) => t.points),
      ...[...Object.values(devices ?? {}), ...Object.values(panels ?? {})].map((d) => [d.at.x, d.at.y]),
      ...Object.values(runs).map((r) => r.points),
    ]);
    if (!box) return EMPTY_BOX;
    const under = UNDER_PANELS * (box.y1 - box.y0);
    return { ...box, y1: Math.max(box.y1, ...Object.values(panels ?? {}).map(({ at }) => at.y + under)) };
  }, [outlines, tracks, runs, devices, panels, backdrop]);
  const newest = useRef(whole);
  newest.current = whole;
  const pictured = backdrop ? `${id}:${backdrop.picture}:${backdrop.mm_per_pixel}` : id;
  useEffect(() => {
    if (whole && pictured && fitted.current !== pictured) {
      const before = fitted.current === null && id ? lastView(id, step) : null;
      fitted.current = pictured;
      if (before) go(before);
      else fit(whole);
    }
  }, [whole, pictured, fit, go, id, step]);
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    let last = `${element.clientWidth},${element.clientHeight}`;
    setSize({ width: element.clientWidth, height: element.clientHeight });
    const watch = new ResizeObserver(() => {
      // Only a new size moves the plan: what is drawn on it must not run away under the hand.
      const now = `${element.clientWidth},${element.clientHeight}`;
      if (now !== last && inFull.current) fit(newest.current);
      last = now;
      setSize({ width: element.clientWidth, height: element.clientHeight });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [fit, inFull]);

  useEffect(() => {
    if (showing.count === lastShown || !answers) return;
    lastShown = showing.count;
    const box = boxFor(answers, layout, showing.thing, showing.place, showing.spot);
    if (box) fit(box, 0.3, false);
  }, [showing, answers, layout, fit]);

  useEffect(() => {
    if (!rehearsing || !answers) return;
    return followed(
      (x, y) => fit({ x0: x - 1500, y0: y - 1000, x1: x + 1500, y1: y + 1000 }, 0.6, false),
      answers.tracks,
    );
  }, [rehearsing, answers, fit]);

  const onPlan = (event: { clientX: number; clientY: number }) => {
    const matrix = inner.current?.getScreenCTM()?.inverse();
    if (!matrix) return null;
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    return { x: p.x, y: p.y, mmPerPx: matrix.a };
  };
  const trackAt = (event: { clientX: number; clientY: number }) => {
    const here = onPlan(event);
    if (!here || !answers) return null;
    let best: { track: string; at: number; away: number } | null = null;
    for (const [track, drawn] of Object.entries(answers.tracks)) {
      const found = nearest(drawn, here.x, here.y);
      if (found.away < CATCH_PX * here.mmPerPx && (!best || found.away < best.away)) best = { track, ...found };
    }
    return best;
  };
  const thingAt = (target: EventTarget) => {
    const [kind, name] = (target as Element).closest?.("[data-thing]")?.getAttribute("data-thing")?.split(":") ?? [];
    return kind && name ? { kind: kind as Kind, id: name } : null;
  };

  const click = (event: React.MouseEvent) => {
    if (moved.current || drag.swallow.current) {
      drag.swallow.current = false;
      return;
    }
    svg.current?.focus({ preventScroll: true });
    const here = onPlan(event);
    if (!here) return;
    const places = drawing ? PLACES[toolName] : undefined;
    if (places) return set({ measure: [...measure, { x: here.x, y: here.y }].slice(-places) });
    if (tool.tool) return tool.press(here);
    if (placing?.what === "train") {
      const on = trackAt(event);
      if (!on) return set({ note: "Click on a track." });
      set({ placing: null, note: null });
      return useTrainsOn.getState().put({ name: placing.name, train: placing.train, track: on.track, at: on.at });
    }
    if (placing && step === "zones") {
      set({ placing: null });
      const [x, y] = [Math.round(here.x), Math.round(here.y)];
      const act =
        placing.what === "supply"
          ? ({ act: "source", kind: "supply", x, y } as const)
          : ({ act: "stand load", load: placing.id, x, y } as const);
      void useLayout
        .getState()
        .draw(act)
        .then(({ made }) => made && select(made));
      return;
    }
    if (paint && step === "zones") {
      const on = trackAt(event);
      if (on) void useLayout.getState().draw({ act: "assign", track: on.track, at: on.at, circuit: paint });
      else set({ note: "Click on a track." });
      return;
    }
    const handle = (event.target as Element).closest?.("[data-handle]")?.getAttribute("data-handle")?.split(":");
    if (handle?.[0] === "bend") return set({ bend: { track: handle[1] ?? "", index: Number(handle[2]) } });
    if (handle) return;
    const thing = thingAt(event.target);
    const throwing = thing?.kind === "node" && (look === "phase" || look === "cabs" || toolName === "throw");
    if (throwing && throwTurnout(answers?.nodes, thing.id)) return;
    const track = trackAt(event);
    const small = thing && thing.kind !== "run" && thing.kind !== "feeder";
    const k = svg.current ? Number(svg.current.style.getPropertyValue("--k")) : 1;
    if (track && !small && (!thing || track.away * k < 6)) {
      if (event.shiftKey && drawing) return choose({ kind: "track", id: track.track });
      select({ kind: "track", id: track.track });
      set({ picked: { track: track.track, at: Math.round(track.at * 10) / 10 } });
    } else if (thing && event.shiftKey && drawing) choose(thing);
    else if (thing) select(thing);
    else if (drawing) {
      const board = Object.entries(layout?.boards ?? {}).find(([, b]) => within(b.outline, here));
      if (board) select({ kind: "board", id: board[0] });
      else set({ selected: null, chosen: [], bend: null, picked: null, lit: [], finding: null, note: null });
    } else set({ selected: null, chosen: [], picked: null, lit: [], finding: null });
  };

  const move = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box || !answers || !layout) return setHover(null);
    const here = onPlan(event);
    if (drag.busy() && here) {
      drag.move(event, here);
      return setHover(null);
    }
    if (event.buttons) return setHover(null);
    if (tool.tool && here) {
      tool.move(here);
      return setHover(null);
    }
    const spot = { x: event.clientX - box.left, y: event.clientY - box.top };
    if ((event.target as Element).closest?.("[data-lever]")) return setHover(null);
    const thing = thingAt(event.target);
    const track = trackAt(event);
    if (track && (!thing || thing.kind === "feeder" || thing.kind === "run"))
      return setHover({ ...spot, lines: aboutTrack(answers, layout, rails, look, track.track, track.at) });
    setHover(thing ? { ...spot, lines: aboutThing(answers, layout, thing) } : null);
  };

  // Keys of a tool in hand go to the plan wherever it was chosen.
  useEffect(() => {
    if (drawing && toolName !== "select") svg.current?.focus({ preventScroll: true });
  }, [drawing, toolName]);

  const keys = usePlanKeys({ pan, by, fit: () => fit(whole), tool, drawing });

  const units = layout?.brief?.units ?? "imperial";
  const spot = useSpot(answers, look, point, picked !== null, drawing || inHand);
  const chips = useBlockLabels(look === "blocks" && !ghostInks.length ? detection : undefined);
  const { data: cabs } = useCabs(look === "cabs");
  const levers = useLeverLabels(look === "cabs" ? cabs : undefined);
  const more = useMemo(() => [...chips, ...levers], [chips, levers]);
  const labels = useLabels(layout, answers, look, drawing, spot, more, bucket);
  if (!layout) return null;
  const ghosts = [...tool.ghosts, ...drag.ghosts];
  return (
    <div
      className="relative h-full min-h-0 overflow-hidden bg-paper"
      data-testid="plan"
      aria-busy={isPlaceholderData || !answers}
    >
      {drawing ? <Grid units={units} {...size} /> : null}
      <svg
        ref={svg}
        className={`plan relative block h-full w-full ${tool.tool || toolName in PLACES || placing ? "cursor-crosshair" : "cursor-default"}`}
        data-many={Object.keys(answers?.tracks ?? {}).length > MANY_TRACKS ? "yes" : "no"}
        style={{ "--gauge": answers?.rail_gauge ?? 0 } as React.CSSProperties}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the plan takes keys, as its label says
        tabIndex={0}
        role="application"
        aria-label="Plan of the layout. Arrow keys move it, plus and minus zoom, F fits, square brackets walk along the track. Control K finds anything."
        onClick={click}
        onDoubleClick={() => tool.finish()}
        onPointerDown={(event) => {
          const here = onPlan(event);
          if (drawing && toolName === "select" && here) drag.down(event, here);
        }}
        onPointerUp={drag.up}
        onDragOver={(event) => {
          if (rehearsing && event.dataTransfer.types.includes(DROPPED)) event.preventDefault();
        }}
        onDrop={(event) => {
          const kind = event.dataTransfer.getData(DROPPED);
          if (!rehearsing || !kind) return;
          event.preventDefault();
          const on = trackAt(event);
          dropAt(kind, on, thingAt(event.target));
        }}
        onPointerMove={move}
        onPointerLeave={() => setHover(null)}
        onKeyDown={keys}
      >
        <title>{layout.name}</title>
        <g ref={inner}>
          <Boards boards={layout.boards} lit={bright} />
          <Obstacles obstacles={layout.obstacles} lit={bright} />
          <Backdrop layout={layout} measure={drawing ? measure : []} />
          {answers ? (
            <>
              <g opacity={["phase", "reversing", "cabs", "blocks", "signals"].includes(look) ? 0.3 : 1}>
                <Copper
                  runs={layout.runs}
                  drawn={answers.runs}
                  copper={answers.copper}
                  feeders={answers.feeders}
                  plugs={answers.plugs}
                  terminals={answers.terminals}
                  lit={bright}
                />
              </g>
              <Inks
                answers={answers}
                layout={layout}
                moment={moment}
                detection={detection}
                rails={rails}
                bright={bright}
              />
              <Gaps gaps={answers.gaps} lit={bright} />
              <BoardNames boards={layout.boards} labels={labels} />
              <Loads loads={layout.loads} circuits={layout.circuits} lit={bright} />
              <PanelMarks panels={layout.panels} labels={labels} />
              <Devices devices={layout.devices} circuits={layout.circuits} lit={bright} labels={labels} />
              <Nodes
                nodes={answers.nodes}
                layout={layout}
                lit={bright}
                drawing={drawing}
                far={bucket < -7 && ((look !== "phase" && !drawing) || Object.keys(answers.nodes).length > MANY_NODES)}
              />
              {look === "signals" || look === "blocks" || drawing ? (
                <ControlBoards layout={layout} lit={bright} drivers={look !== "blocks"} />
              ) : null}
              {look === "blocks" && detection && !ghostInks.length ? (
                <Chips detection={detection} labels={labels} />
              ) : null}
              {signals && (look === "signals" || drawing) ? (
                <Heads signals={signals} shows={moment?.shows} lit={bright} small={look !== "signals"} />
              ) : null}
              {look === "signals" ? <GhostHeads heads={ghostHeads} /> : null}
              {!rehearsing && moment && (look === "signals" || look === "blocks") ? (
                <Trains answers={answers} moment={moment} />
              ) : null}
              {rehearsing ? <EveningTrains answers={answers} /> : null}
              {drawing || look === "blocks" || look === "signals" ? null : (
                <Names layout={layout} tracks={answers.tracks} labels={labels} />
              )}
              {spot ? <Spot spot={spot} look={look} point={point} stand={labels.get("spot")} /> : null}
              {drawing && toolName === "select" ? <Handles layout={layout} answers={answers} /> : null}
            </>
          ) : null}
          <Proposed />
          {drawing ? <TracedLines /> : null}
          <Proofs />
          <Ghosts ghosts={ghosts} />
          {drag.box ? (
            <rect
              x={Math.min(drag.box.from.x, drag.box.here.x)}
              y={Math.min(drag.box.from.y, drag.box.here.y)}
              width={Math.abs(drag.box.here.x - drag.box.from.x)}
              height={Math.abs(drag.box.here.y - drag.box.from.y)}
              fill="var(--slate)"
              fillOpacity="0.12"
              stroke="var(--slate)"
              className="w dashes"
              style={{ "--w": 1.4 } as never}
            />
          ) : null}
        </g>
      </svg>
      {answers && !drawing && Object.keys(answers.tracks).length === 0 ? (
        <div className="absolute inset-x-0 top-1/2 mx-auto w-fit max-w-sm rounded-lg border border-line bg-card p-4 text-center">
          <p>No track in this layout yet.</p>
          <button type="button" className="btn-main mt-2" onClick={() => set({ step: "track", tool: "track" })}>
            Draw the track
          </button>
        </div>
      ) : null}
      {drawing ? <Rulers units={units} {...size} /> : null}
      <ScaleBar units={units} />
      {hover ? (
        <div
          role="presentation"
          className="pointer-events-none absolute z-20 max-w-[260px] rounded-md bg-strong px-2.5 py-1.5 text-onstrong shadow"
          style={{
            left: Math.min(hover.x + 14, (svg.current?.clientWidth ?? 999) - 220),
            top: Math.max(hover.y - 46, 4),
          }}
        >
          {hover.lines.map((line, k) => (
            <div key={line} className={k ? "text-[11px] opacity-85" : "font-semibold text-xs"}>
              {line}
            </div>
          ))}
        </div>
      ) : null}
      <ZoomButtons by={by} onWhole={() => fit(whole)} />
    </div>
  );
}
