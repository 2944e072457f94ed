import { type PointerEvent, useRef, useState } from "react";
import { useZones } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { arrange, GAP_X, TALL, WIDE } from "./arrange";
import { Box } from "./Box";

const FAR_PX = 5;
const EDGE_PX = 28;
const SCROLL_PX = 14;
type Drag = { device: string; x: number; y: number; dx: number; dy: number; over: string | null };

/** The power tree on one line each: source, breaker, reverser, with amps asked, amps given, trips and what goes dark. */
export function OneLine() {
  const { data } = useZones();
  const selected = useBench((s) => s.selected);
  const show = useBench((s) => s.show);
  const draw = useLayout((s) => s.draw);
  const name = useLayout((s) => s.state?.document.name);
  const revision = useLayout((s) => s.state?.revision);
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<Drag | null>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  if (!data) return <p className="p-3 text-mute">Working it out…</p>;
  if (!data.steps.length)
    return (
      <p className="border-line border-t p-3 text-mute">No source yet. Step Track, tool Source, places the first.</p>
    );
  const { placed, width, height } = arrange(data.steps);
  const take = (next: Drag | null) => {
    held.current = next;
    setDrag(next);
  };
  const at = (event: PointerEvent) => {
    const matrix = svg.current?.getScreenCTM()?.inverse();
    return new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
  };
  const stepOf = (device: string | null | undefined) => data.steps.find((s) => s.device === device);
  const under = (x: number, y: number, device: string) =>
    stepOf(device)?.hosts.find((host) => {
      const p = placed.get(host);
      return p && x >= p.x && x <= p.x + WIDE && y >= p.y && y <= p.y + TALL;
    }) ?? null;
  const move = (event: PointerEvent) => {
    const now = held.current;
    if (!now) return;
    const sheet = svg.current?.parentElement;
    const box = sheet?.getBoundingClientRect();
    // What it may hang under can be out of sight: near the edge the sheet moves along.
    if (sheet && box) {
      if (event.clientY > box.bottom - EDGE_PX) sheet.scrollTop += SCROLL_PX;
      if (event.clientY < box.top + EDGE_PX) sheet.scrollTop -= SCROLL_PX;
    }
    const here = at(event);
    take({ ...now, dx: here.x - now.x, dy: here.y - now.y, over: under(here.x, here.y, now.device) });
  };
  const up = async () => {
    const now = held.current;
    take(null);
    if (!now) return;
    if (Math.hypot(now.dx, now.dy) < FAR_PX) return show({ kind: "device", id: now.device }, null);
    const host = stepOf(now.over);
    if (!host) return setSaid("Let go over a device that gives it power.");
    const { why } = await draw({ act: "rehang", device: now.device, input: host.circuit });
    setSaid(why);
  };
  const hosts = selected?.kind === "device" ? (stepOf(selected.id)?.hosts ?? []).flatMap((h) => stepOf(h) ?? []) : [];
  return (
    <section className="min-h-0 overflow-auto bg-card p-3" aria-label="One-line diagram" data-testid="one-line">
      <p className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1 text-[11.5px] text-mute">
        <span className="print-only font-bold text-ink">
          {name}, revision {revision}: power from every source to every district
        </span>
        <span className="no-print">Drag a breaker onto another source to hang it there.</span>
        {hosts.length ? (
          <label className="no-print flex items-center gap-1">
            Hang the chosen one under
            <select
              className="field w-auto py-0 text-xs text-ink"
              value=""
              onChange={async (event) => {
                if (selected)
                  setSaid((await draw({ act: "rehang", device: selected.id, input: event.target.value })).why);
              }}
            >
              <option value="">…</option>
              {hosts.map((h) => (
                <option key={h.device} value={h.circuit}>
                  {h.name}
                </option>
              ))}
            </select>
          </label>
        ) : null}
        {said ? (
          <span role="alert" className="text-oxide">
            {said}
          </span>
        ) : null}
        <span className="flex-1" />
        <button
          type="button"
          className="act no-print"
          onClick={() => {
            const page = document.documentElement.dataset;
            const theme = page.theme;
            Object.assign(page, { print: "one-line", theme: "light" });
            window.print();
            delete page.print;
            page.theme = theme;
          }}
        >
          Print it
        </button>
      </p>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing, whose boxes are buttons */}
      <svg
        ref={svg}
        width={width + 8}
        height={height + 8}
        viewBox={`-4 -4 ${width + 8} ${height + 8}`}
        role="group"
        aria-label="Power from every source to every district"
        className="one-line touch-none"
        onPointerMove={move}
        onPointerUp={() => void up()}
        onPointerCancel={() => take(null)}
      >
        {data.steps.map((s) => {
          const here = placed.get(s.device);
          const from = s.above ? placed.get(s.above) : undefined;
          if (!here || !from) return null;
          const [x0, y0, x1, y1] = [from.x + WIDE, from.y + TALL / 2, here.x, here.y + TALL / 2];
          const middle = x0 + GAP_X / 2;
          return (
            <g key={s.device} fill="none">
              <path d={`M${x0} ${y0}H${middle}V${y1}H${x1}`} stroke="var(--copper)" strokeWidth="3.4" />
              <path d={`M${x0} ${y0}H${middle}V${y1}H${x1}`} stroke="var(--card)" strokeWidth="1" />
            </g>
          );
        })}
        {[...data.steps]
          .sort((a, b) => Number(a.device === drag?.device) - Number(b.device === drag?.device))
          .map((s) => {
            const here = placed.get(s.device);
            if (!here) return null;
            const mine = drag?.device === s.device;
            return (
              <Box
                key={s.device}
                step={s}
                x={here.x + (mine ? (drag?.dx ?? 0) : 0)}
                y={here.y + (mine ? (drag?.dy ?? 0) : 0)}
                selected={selected?.kind === "device" && selected.id === s.device}
                target={drag?.over === s.device}
                held={mine}
                onPress={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  const p = at(event);
                  take({ device: s.device, x: p.x, y: p.y, dx: 0, dy: 0, over: null });
                }}
                onEnter={() => show({ kind: "device", id: s.device }, null)}
              />
            );
          })}
      </svg>
      <p className="mt-1.5 text-[11.5px] text-mute">
        {bound(data.trips_text)} {bound(data.balance_text)}
      </p>
    </section>
  );
}
