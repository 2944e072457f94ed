import { useBench } from "../../store/bench";

/** What the next click does, and what the last act had to say, over the plan's lower edge. */
export function Note() {
  const { note, placing } = useBench();
  const hint = placing?.what === "train" ? `Click on a track: ${placing.name} stands there. Escape stops.` : null;
  return (
    <div className="pointer-events-none absolute right-16 bottom-3 left-3 flex flex-col items-start gap-1.5">
      {note ? (
        <p role="status" className="max-w-xl rounded-md border border-amber bg-card px-2.5 py-1.5 text-xs">
          {note}
        </p>
      ) : null}
      {hint ? (
        <p className="rounded-md bg-paper/90 px-2 py-1 text-[11.5px] text-mute" data-testid="hint">
          {hint}
        </p>
      ) : null}
    </div>
  );
}
