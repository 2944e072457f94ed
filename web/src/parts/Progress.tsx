/** How far some work is, once there is anything to tell, and a way to stop it. */
export function Progress({ done, onStop }: { done: [number, number] | null; onStop?: () => void }) {
  return done ? (
    <span className="mb-2 flex items-center gap-2">
      <progress className="h-1.5 w-28" value={done[0]} max={Math.max(done[1], 1)} />
      {onStop ? (
        <button type="button" className="act" onClick={onStop}>
          Stop
        </button>
      ) : null}
    </span>
  ) : null;
}
