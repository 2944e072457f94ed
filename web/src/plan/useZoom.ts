import { select } from "d3-selection";
import { type ZoomBehavior, type ZoomTransform, zoom, zoomIdentity } from "d3-zoom";
import { type RefObject, useCallback, useEffect, useRef } from "react";
import { useBench } from "../store/bench";
import type { Box } from "./geometry";
import { useView } from "./view";

/** Kept free round a plan that is shown whole, and above it, where the looks, their legend and a name stand. */
const EDGE_PX = 26;
const LOOKS_PX = 84;

/** What is dragged by itself: handles always, nodes and devices while one draws with nothing in hand. */
function isHandle(target: Element): boolean {
  if (target.closest?.("[data-handle]")) return true;
  const { step, tool } = useBench.getState();
  return (
    step === "track" && tool === "select" && target.closest?.('[data-thing^="node:"],[data-thing^="device:"]') !== null
  );
}

function slides(element: SVGSVGElement, to: ZoomTransform, from: ZoomTransform): boolean {
  return element.dataset.many === "yes" && element.dataset.far === "yes" && to.k === from.k;
}

/** Pan and zoom of the plan, in pixels per millimetre. The drawing moves without React; only `--k` changes widths. */
export function useZoom(
  svg: RefObject<SVGSVGElement | null>,
  inner: RefObject<SVGGElement | null>,
  rest: (view: ZoomTransform | null) => void,
) {
  const onRest = useRef(rest);
  onRest.current = rest;
  const behaviour = useRef<ZoomBehavior<SVGSVGElement, unknown> | null>(null);
  const moved = useRef(false);
  const from = useRef(zoomIdentity);
  /** Whether the whole plan is in view because nobody asked for anything else. */
  const whole = useRef(true);
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const zooming = zoom<SVGSVGElement, unknown>()
      .scaleExtent([0.01, 4])
      .clickDistance(4)
      // Handles are dragged, and with Shift a box is drawn: neither moves the plan.
      .filter(
        (event: MouseEvent) =>
          !event.button && (event.type === "wheel" || (!event.shiftKey && !isHandle(event.target as Element))),
      )
      .on("start", (event) => {
        moved.current = false;
        from.current = event.transform;
      })
      .on("end", (event) => {
        onRest.current(whole.current ? null : event.transform);
        if (!element.style.transform) return;
        element.style.transform = "";
        inner.current?.setAttribute("transform", event.transform.toString());
      })
      .on("zoom", (event) => {
        moved.current = true;
        if (event.sourceEvent) whole.current = false;
        if (slides(element, event.transform, from.current)) {
          // A plan of thousands of tracks seen whole is slid as a picture while it is dragged, and drawn again after.
          const { x, y } = from.current;
          element.style.transform = `translate(${event.transform.x - x}px,${event.transform.y - y}px)`;
          return;
        }
        inner.current?.setAttribute("transform", event.transform.toString());
        const { k, x, y } = event.transform as ZoomTransform;
        useView.setState({ k, x, y, width: element.clientWidth });
        element.style.setProperty("--k", String(event.transform.k));
        element.dataset.far = event.transform.k < 0.045 ? "yes" : "no";
        const bucket = Math.round(2 * Math.log2(event.transform.k));
        if (bucket !== useBench.getState().bucket) useBench.setState({ bucket });
        element.dataset.near = event.transform.k > 0.26 ? "yes" : "no";
      });
    behaviour.current = zooming;
    select(element).call(zooming).on("dblclick.zoom", null);
    return () => {
      select(element).on(".zoom", null);
    };
  }, [svg, inner]);

  const fit = useCallback(
    (box: Box | null, closest = 0.6, isWhole = true) => {
      const element = svg.current;
      if (!element || !box || !behaviour.current) return;
      const { clientWidth: w, clientHeight: h } = element;
      whole.current = isWhole;
      const k = Math.min(
        (w - 2 * EDGE_PX) / Math.max(box.x1 - box.x0, 1),
        (h - LOOKS_PX - EDGE_PX) / Math.max(box.y1 - box.y0, 1),
        closest,
      );
      const at = zoomIdentity
        .translate(w / 2, (h + LOOKS_PX - EDGE_PX) / 2)
        .scale(k)
        .translate(-(box.x0 + box.x1) / 2, -(box.y0 + box.y1) / 2);
      select(element).call(behaviour.current.transform, at);
    },
    [svg],
  );
  const by = useCallback(
    (factor: number) => {
      if (!svg.current || !behaviour.current) return;
      whole.current = false;
      select(svg.current).call(behaviour.current.scaleBy, factor);
    },
    [svg],
  );
  const pan = useCallback(
    (x: number, y: number) => {
      const element = svg.current;
      if (!element || !behaviour.current) return;
      whole.current = false;
      const k = Number(element.style.getPropertyValue("--k")) || 1;
      select(element).call(behaviour.current.translateBy, x / k, y / k);
    },
    [svg],
  );
  /** Goes where the plan stood before. */
  const go = useCallback(
    (view: ZoomTransform) => {
      if (!svg.current || !behaviour.current) return;
      whole.current = false;
      select(svg.current).call(behaviour.current.transform, view);
    },
    [svg],
  );
  return { go, fit, by, pan, moved, whole };
}
