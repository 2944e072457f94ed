import { Maximize, Minus, Plus } from "lucide-react";
import { type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { useAnswers, usePoint } from "../api/queries";
import { type Kind, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { Copper } from "./Copper";
import { along, boxOf, nearest } from "./geometry";
import { Boards, Devices, Gaps, Names, Spots } from "./Marks";
import { Rails } from "./Rails";
import { useZoom } from "./useZoom";

const CATCH_PX = 13;
const NUDGE_MM = 50;
type Hover = { x: number; y: number; lines: string[] };

/** The plan to scale. Everything drawn on it conducts, divides or protects; a click asks about it. */
export function Plan() {
  const layout = useLayout((s) => s.state?.document);
  const { data: answers, isPlaceholderData } = useAnswers();
  const { data: point } = usePoint();
  const { look, lit, picked, showing, select, set } = useBench();
  const svg = useRef<SVGSVGElement>(null);
  const inner = useRef<SVGGElement>(null);
  const { fit, by, pan, moved, whole: inFull } = useZoom(svg, inner);
  const [hover, setHover] = useState<Hover | null>(null);
  const bright = useMemo(() => new Set(lit), [lit]);

  const { tracks, runs } = answers ?? {};
  const outlines = layout?.boards;
  const whole = useMemo(() => {
    if (!tracks || !runs) return null;
    const boards = Object.values(outlines ?? {}).map((b) => b.outline.flatMap((p) => [p.x, p.y]));
    return boxOf([
      ...boards,
      ...Object.values(tracks).map((t) => t.points),
      ...Object.values(runs).map((r) => r.points),
    ]);
  }, [outlines, tracks, runs]);
  const fitted = useRef<string | null>(null);
  const id = useLayout((s) => s.state?.id);
  useEffect(() => {
    if (whole && id && fitted.current !== id) {
      fitted.current = id;
      fit(whole);
    }
  }, [whole, id, fit]);
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const watch = new ResizeObserver(() => {
      if (inFull.current) fit(whole);
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [fit, whole, inFull]);

  const shown = useRef(0);
  useEffect(() => {
    if (showing.count === shown.current || !answers) return;
    shown.current = showing.count;
    const { thing, place } = showing;
    const drawn = place ? answers.tracks[place.track] : undefined;
    const spot = drawn && place ? along(drawn, place.at) : null;
    let box = spot ? { x0: spot[0] - 1100, y0: spot[1] - 700, x1: spot[0] + 1100, y1: spot[1] + 700 } : null;
    if (thing?.kind === "run") box = boxOf([answers.runs[thing.id]?.points ?? []]);
    if (thing?.kind === "feeder" && answers.feeders[thing.id]) {
      const f = answers.feeders[thing.id];
      if (f) box = boxOf([[f.x1 - 900, f.y1 - 600, f.x2 + 900, f.y2 + 600]]);
    }
    if (thing?.kind === "device") {
      const where = layout?.devices?.[thing.id]?.at;
      if (where) box = { x0: where.x - 1200, y0: where.y - 800, x1: where.x + 1200, y1: where.y + 800 };
    }
    const post = thing?.kind === "terminal" ? answers.terminals[thing.id] : undefined;
    if (post) box = { x0: post.x - 1100, y0: post.y - 700, x1: post.x + 1100, y1: post.y + 700 };
    if (thing?.kind === "board") box = boxOf([layout?.boards?.[thing.id]?.outline.flatMap((p) => [p.x, p.y]) ?? []]);
    if (thing?.kind === "track" && !place) box = boxOf([answers.tracks[thing.id]?.points ?? []]);
    if (box) fit(box, 0.3, false);
  }, [showing, answers, layout, fit]);

  const onPlan = (event: { clientX: number; clientY: number }) => {
    const matrix = inner.current?.getScreenCTM()?.inverse();
    if (!matrix) return null;
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    return { x: p.x, y: p.y, reach: CATCH_PX * matrix.a };
  };
  const trackAt = (event: { clientX: number; clientY: number }) => {
    const here = onPlan(event);
    if (!here || !answers) return null;
    let best: { track: string; at: number; away: number } | null = null;
    for (const [track, drawn] of Object.entries(answers.tracks)) {
      const found = nearest(drawn, here.x, here.y);
      if (found.away < here.reach && (!best || found.away < best.away)) best = { track, ...found };
    }
    return best;
  };
  const thingAt = (target: EventTarget) => {
    const [kind, name] = (target as Element).closest?.("[data-thing]")?.getAttribute("data-thing")?.split(":") ?? [];
    return kind && name ? { kind: kind as Kind, id: name } : null;
  };

  const click = (event: React.MouseEvent) => {
    if (moved.current) return;
    const thing = thingAt(event.target);
    const track = trackAt(event);
    const small = thing && thing.kind !== "run" && thing.kind !== "feeder";
    if (
      track &&
      !small &&
      (!thing || track.away * (svg.current ? Number(svg.current.style.getPropertyValue("--k")) : 1) < 6)
    ) {
      select({ kind: "track", id: track.track });
      set({ picked: { track: track.track, at: Math.round(track.at * 10) / 10 } });
    } else if (thing) select(thing);
    else set({ selected: null, picked: null, lit: [], finding: null });
  };

  const move = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box || !answers || !layout || event.buttons) return setHover(null);
    const spot = { x: event.clientX - box.left, y: event.clientY - box.top };
    const thing = thingAt(event.target);
    const track = trackAt(event);
    if (track && (!thing || thing.kind === "feeder" || thing.kind === "run")) {
      const samples = answers.samples[track.track];
      const lines = [layout.tracks?.[track.track]?.name ?? track.track];
      if (samples) {
        let k = 0;
        while (k + 1 < samples.at.length && (samples.at[k + 1] ?? 0) <= track.at) k++;
        const volts = samples.volts[k];
        const ratio = samples.ratio[k];
        if (volts === null || volts === undefined) lines.unshift("No volts here");
        else if (look === "coin")
          lines.unshift(
            `${samples.coin[k]?.toFixed(1)} A into a short${ratio ? `, ${ratio.toFixed(2)} × the trip` : ""}`,
          );
        else lines.unshift(`${volts.toFixed(1)} V at the wheel, ${((samples.lost[k] ?? 0) * 100).toFixed(0)} % down`);
      }
      return setHover({ ...spot, lines });
    }
    if (!thing) return setHover(null);
    const load = answers.loads[`${thing.kind}:${thing.id}`];
    const run = layout.runs?.[thing.id];
    const feeder = layout.feeders?.[thing.id];
    const device = layout.devices?.[thing.id];
    const lines: string[] = [];
    if (thing.kind === "run" && run)
      lines.push(
        `Bus ${run.label}, ${run.gauge}`,
        `${answers.runs[thing.id]?.length_text}, up to ${load?.scene_text ?? "no source"}`,
      );
    else if (thing.kind === "feeder" && feeder)
      lines.push(
        `Feeder ${feeder.label}, ${feeder.gauge}`,
        `${answers.feeders[thing.id]?.length_text}, up to ${load?.scene_text ?? "no source"}`,
      );
    else if (thing.kind === "device" && device)
      lines.push(device.name, `${device.kind}${device.trip_amps ? `, trips at ${device.trip_amps} A` : ""}`);
    else if (thing.kind === "terminal") lines.push(`Terminal ${thing.id}`, layout.terminals?.[thing.id]?.kind ?? "");
    else if (thing.kind === "gap")
      lines.push(
        `Gap ${thing.id}`,
        `${layout.gaps?.[thing.id]?.rails === "both" ? "both rails" : `${layout.gaps?.[thing.id]?.rails} rail`}`,
      );
    else lines.push(`Plug ${thing.id}`);
    setHover({ ...spot, lines });
  };

  const keys = (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = 60;
    const does: Record<string, () => void> = {
      ArrowLeft: () => pan(step, 0),
      ArrowRight: () => pan(-step, 0),
      ArrowUp: () => pan(0, step),
      ArrowDown: () => pan(0, -step),
      "+": () => by(1.3),
      "=": () => by(1.3),
      "-": () => by(1 / 1.3),
      "0": () => fit(whole),
      f: () => fit(whole),
      "[": () => nudge(-NUDGE_MM),
      "]": () => nudge(NUDGE_MM),
    };
    if (does[event.key]) {
      event.preventDefault();
      does[event.key]?.();
    }
  };
  const nudge = (mm: number) => {
    if (!point || !answers) return;
    const length = answers.tracks[point.track]?.length ?? 0;
    set({
      picked: { track: point.track, at: Math.min(Math.max(point.at + mm, 0), length) },
      selected: { kind: "track", id: point.track },
      lit: [point.track],
    });
  };

  if (!layout) return null;
  return (
    <div
      className="relative h-full min-h-0 overflow-hidden bg-paper"
      data-testid="plan"
      aria-busy={isPlaceholderData || !answers}
    >
      <svg
        ref={svg}
        className="plan block h-full w-full cursor-default"
        style={{ "--gauge": answers?.rail_gauge ?? 0 } as React.CSSProperties}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the plan takes keys, as its label says
        tabIndex={0}
        role="application"
        aria-label="Plan of the layout. Arrow keys move it, plus and minus zoom, F fits, square brackets walk along the track. Control K finds anything."
        onClick={click}
        onPointerMove={move}
        onPointerLeave={() => setHover(null)}
        onKeyDown={keys}
      >
        <title>{layout.name}</title>
        <g ref={inner}>
          <Boards boards={layout.boards} lit={bright} />
          {answers ? (
            <>
              <Copper
                runs={layout.runs}
                drawn={answers.runs}
                copper={answers.copper}
                feeders={answers.feeders}
                plugs={answers.plugs}
                terminals={answers.terminals}
                lit={bright}
              />
              <Rails answers={answers} look={look} lit={bright} />
              {Object.values(layout.nodes ?? {}).map((n) =>
                n.kind === "turntable" ? (
                  <circle
                    key={`${n.at.x},${n.at.y}`}
                    cx={n.at.x}
                    cy={n.at.y}
                    r={(n.diameter ?? 300) / 2}
                    fill="var(--board)"
                    stroke="var(--rail)"
                    className="w"
                    style={{ "--w": 1.6 } as never}
                  />
                ) : null,
              )}
              <Gaps gaps={answers.gaps} lit={bright} />
              <Devices devices={layout.devices} circuits={layout.circuits} lit={bright} />
              <Names sections={layout.sections} circuits={layout.circuits} tracks={answers.tracks} />
              <Spots answers={answers} look={look} point={point} picked={picked !== null} />
            </>
          ) : null}
        </g>
      </svg>
      {answers && Object.keys(answers.tracks).length === 0 ? (
        <p className="absolute inset-x-0 top-1/2 mx-auto w-fit max-w-sm rounded-lg border border-line bg-card p-4 text-center">
          No track in this layout yet. Drawing it comes next; until then a layout file can bring it: Brief, Open a
          layout file.
        </p>
      ) : null}
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
      <div className="no-print absolute right-3 bottom-3 flex flex-col gap-1">
        <button type="button" className="btn px-1.5" aria-label="Zoom in" onClick={() => by(1.4)}>
          <Plus size={15} aria-hidden="true" />
        </button>
        <button type="button" className="btn px-1.5" aria-label="Zoom out" onClick={() => by(1 / 1.4)}>
          <Minus size={15} aria-hidden="true" />
        </button>
        <button type="button" className="btn px-1.5" aria-label="Fit the whole plan" onClick={() => fit(whole)}>
          <Maximize size={15} aria-hidden="true" />
        </button>
      </div>
    </div>
  );
}
