/** How far some work is, once there is anything to tell. */
export function Progress({ done }: { done: [number, number] | null }) {
  return done ? <progress className="mb-2 h-1.5 w-28" value={done[0]} max={Math.max(done[1], 1)} /> : null;
}
