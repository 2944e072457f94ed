import { Maximize, Minus, Plus } from "lucide-react";

/** Nearer, farther, and the whole plan, at the corner of the drawing. */
export function ZoomButtons({ by, onWhole }: { by: (factor: number) => void; onWhole: () => void }) {
  return (
    <div className="no-print absolute right-3 bottom-3 flex flex-col gap-1">
      <button type="button" className="btn px-1.5" aria-label="Zoom in" onClick={() => by(1.4)}>
        <Plus size={15} aria-hidden="true" />
      </button>
      <button type="button" className="btn px-1.5" aria-label="Zoom out" onClick={() => by(1 / 1.4)}>
        <Minus size={15} aria-hidden="true" />
      </button>
      <button type="button" className="btn px-1.5" aria-label="Fit the whole plan" onClick={onWhole}>
        <Maximize size={15} aria-hidden="true" />
      </button>
    </div>
  );
}
