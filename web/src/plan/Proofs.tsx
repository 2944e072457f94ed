import { type Proof, useBench } from "../store/bench";
import { useProving } from "../store/proving";

const INK: Record<Proof["state"], string> = {
  open: "var(--mute)",
  sound: "var(--verd)",
  bad: "var(--oxide)",
  unsure: "var(--amber)",
  next: "var(--slate)",
  suspect: "var(--oxide)",
};

/** Places of the bench: an open ring is not tested, a tick is sound, a cross is not; the thicker, the more suspected. */
export function Proofs() {
  const proofs = useBench((s) => s.proofs);
  const chosen = useProving((s) => s.test);
  if (!proofs.length) return null;
  return (
    <g data-testid="proofs">
      {proofs.map((p) => {
        const on = p.key === chosen;
        const r = p.state === "suspect" ? 7 + 9 * (p.chance ?? 0) : on || p.state === "next" ? 8 : 5.5;
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list beside has the same as buttons
          <g
            key={p.key}
            data-proof={p.key}
            className="cursor-pointer"
            style={{ transform: `translate(${p.x}px,${p.y}px) scale(var(--px))` }}
            onClick={(event) => {
              event.stopPropagation();
              useProving.getState().set({ test: p.key });
            }}
          >
            <title>{p.words}</title>
            <circle r="12" fill="transparent" />
            <circle
              r={r}
              fill={p.state === "suspect" ? "none" : "var(--card)"}
              stroke={INK[p.state]}
              strokeWidth={on ? 3.4 : p.state === "suspect" ? 2.6 : 2}
              strokeDasharray={p.state === "next" ? "3 2.4" : undefined}
            />
            {p.state === "sound" ? (
              <path d="M-2.6 0l2 2L2.8 -2" fill="none" stroke={INK.sound} strokeWidth="1.8" />
            ) : null}
            {p.state === "bad" ? (
              <path d="M-2.4-2.4L2.4 2.4M2.4-2.4L-2.4 2.4" stroke={INK.bad} strokeWidth="1.8" />
            ) : null}
          </g>
        );
      })}
    </g>
  );
}
