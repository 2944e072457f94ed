import { type PointerEvent, type ReactNode, type RefObject, useEffect, useRef, useState } from "react";
import { clock, useEvening } from "../../store/evening";
import { isLoud } from "./about";
import { useSpan } from "./useSpan";

export type Frame = { width: number; from: number; to: number };
const STEPS = [5, 10, 30, 60, 120, 300, 600, 1200, 1800, 3600];

/** Width of an element, as it changes. */
export function useWidth(ref: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    setWidth(element.clientWidth);
    return () => watch.disconnect();
  }, [ref]);
  return width;
}

/** One time axis for all that lies under it: a click sets the moment everywhere, the wheel zooms, and a hair shows now. */
export function Axis({ left, children }: { left: number; children: (frame: Frame) => ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  const hair = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const trace = useEvening((s) => s.trace);
  const entries = trace?.entries;
  const { span, zoom, all } = useSpan();
  const whole = trace?.opening.seconds ?? 1;
  const { from, to } = span ?? { from: 0, to: whole };
  const inner = Math.max(1, width - left - 8);
  const x = (t: number) => left + ((t - from) / (to - from)) * inner;
  useEffect(() => {
    const draw = (now: number) => {
      const element = hair.current;
      if (!element) return;
      const at = left + ((now - from) / (to - from)) * inner;
      element.style.transform = `translateX(${at}px)`;
      element.style.visibility = at < left || at > left + inner + 1 ? "hidden" : "visible";
    };
    draw(useEvening.getState().now);
    return useEvening.subscribe((s, before) => s.now !== before.now && draw(s.now));
  }, [left, inner, from, to]);
  const time = (event: PointerEvent | React.WheelEvent) => {
    const edge = box.current?.getBoundingClientRect().left ?? 0;
    return from + ((event.clientX - edge - left) / inner) * (to - from);
  };
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    // React's own wheel listeners cannot keep the page from scrolling.
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.shiftKey) return;
      event.preventDefault();
      const edge = element.getBoundingClientRect().left;
      const about = from + ((event.clientX - edge - left) / inner) * (to - from);
      zoom(whole, about, event.deltaY + event.deltaX > 0 ? 1.4 : 1 / 1.4);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [from, to, inner, left, whole, zoom]);
  const step = STEPS.find((s) => ((to - from) / s) * 64 < inner) ?? 3600;
  const marks: number[] = [];
  for (let t = Math.ceil(from / step) * step; t <= to; t += step) marks.push(t);
  const loud = entries?.filter(isLoud) ?? [];
  return (
    <div
      ref={box}
      className="relative min-h-0 select-none overflow-y-auto overflow-x-hidden pb-2"
      data-testid="axis"
      onPointerDown={(event) => {
        if ((event.target as HTMLElement).closest("button, select, label")) return;
        if (event.clientX - (box.current?.getBoundingClientRect().left ?? 0) < left) return;
        useEvening.setState({ playing: false });
        useEvening.getState().seek(time(event));
      }}
    >
      <div className="sticky top-0 z-10 h-[26px] border-line border-b bg-card" style={{ width: "100%" }}>
        <div className="absolute top-0.5 left-2 flex gap-1">
          <button
            type="button"
            className="btn px-1.5 py-0 text-xs"
            aria-label="Zoom in on the moment"
            onClick={() => zoom(whole, useEvening.getState().now, 0.5)}
          >
            +
          </button>
          <button
            type="button"
            className="btn px-1.5 py-0 text-xs"
            aria-label="Zoom out from the moment"
            onClick={() => zoom(whole, useEvening.getState().now, 2)}
          >
            −
          </button>
          <button type="button" className="btn px-1.5 py-0 text-xs" onClick={all}>
            All
          </button>
        </div>
        {marks
          .filter((t) => x(t) < width - 26)
          .map((t) => (
            <span
              key={t}
              className="figure absolute top-[5px] -translate-x-1/2 text-[10.5px] text-mute"
              style={{ left: x(t) }}
            >
              {clock(t)}
            </span>
          ))}
        {loud
          .filter((e) => e.t >= from && e.t <= to)
          .slice(0, 200)
          .map((e) => (
            <span
              key={e.n}
              title={`${clock(e.t)} ${e.words}`}
              className="absolute bottom-0 h-[5px] w-[3px] -translate-x-1/2 bg-oxide"
              style={{ left: x(e.t) }}
            />
          ))}
      </div>
      {width > 0 ? children({ width, from, to }) : null}
      <div
        ref={hair}
        aria-hidden="true"
        className="pointer-events-none absolute top-0 bottom-0 left-0 z-20 w-px bg-copper"
      />
    </div>
  );
}
