import { Calculator, ChevronRight } from "lucide-react";
import type { Shape } from "../api/client";
import { useWorkOrder } from "../api/queries";
import { bound } from "../parts/bound";
import { type Kind, type Step, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { STEP_NAMES } from "./stepNames";

type Standing = Shape["StandingShape"];
type Look = "empty" | "half" | "bar" | "cross" | "tick" | "unknown";

const SAYS: Record<Look, string> = {
  empty: "not begun",
  half: "begun",
  bar: "to settle",
  cross: "to settle, one a must",
  tick: "sound",
  unknown: "",
};
const MARKS: Record<Look, string> = {
  empty: "",
  half: "",
  bar: "M4.4 8h7.2",
  cross: "M5 5l6 6M11 5l-6 6",
  tick: "M4 8.2l2.6 2.6L12 5.4",
  unknown: "",
};

function lookOf(standing: Standing | undefined): Look {
  if (!standing) return "unknown";
  if (standing.condition === "not begun") return "empty";
  if (standing.condition === "begun") return "half";
  if (standing.condition === "to settle") return standing.must ? "cross" : "bar";
  return "tick";
}

/** A terminal on the copper bus. Its state speaks by shape as well as colour: an open ring, a half-filled one, a square with a bar, a cross or a tick. */
function Terminal({ look, here }: { look: Look; here: boolean }) {
  const fill =
    look === "tick" ? "var(--verd)" : look === "bar" ? "var(--amber)" : look === "cross" ? "var(--oxide)" : "";
  const ink = look === "bar" ? "#3a2a05" : "var(--paper)";
  const round = !fill;
  return (
    <svg width="20" height="20" viewBox="-2 -2 20 20" aria-hidden="true" className="absolute left-[13px]">
      {here ? <rect x="-1.5" y="-1.5" width="19" height="19" rx="5" fill="var(--copper)" opacity="0.28" /> : null}
      {round ? (
        <circle
          cx="8"
          cy="8"
          r="6.6"
          fill="var(--paper)"
          stroke="var(--link)"
          strokeWidth="1.8"
          strokeDasharray={look === "unknown" ? "2 2.6" : undefined}
        />
      ) : (
        <rect x="0.9" y="0.9" width="14.2" height="14.2" rx="3" fill={fill} stroke="var(--link)" strokeWidth="1.8" />
      )}
      {look === "half" ? <path d="M8 3.6A4.4 4.4 0 0 0 8 12.4Z" fill="var(--link)" /> : null}
      <path d={MARKS[look]} stroke={ink} strokeWidth="2" fill="none" strokeLinecap="round" />
    </svg>
  );
}

/** The work order: every step with how it stands, and at the foot what to do next. */
export function WorkBus() {
  const { step, page, set } = useBench();
  const { data } = useWorkOrder();
  const standing = (name: Step) => data?.steps.find((s) => s.step === name);
  // The table is a view of the wire, not a step of its own.
  const current = page === "bench" ? (step === "table" ? "wire" : step) : null;
  const tap = (here: boolean) =>
    `relative flex h-11 w-full shrink items-center pl-[38px] pr-1 text-left text-[12.5px] leading-tight fade ${
      here ? "bg-card font-bold shadow-[inset_-3px_0_0_var(--copper)]" : "text-ink hover:bg-board"
    }`;
  return (
    <nav aria-label="Steps of the work" className="no-print relative flex min-h-0 flex-col border-line border-r pt-3">
      <span
        aria-hidden="true"
        className="absolute top-0 bottom-0 left-[21px] w-[5px] bg-linear-to-r from-[#8A4519] via-[#D98B55] to-[#8A4519]"
      />
      {STEP_NAMES.map(({ key, name }) => {
        const mine = standing(key);
        const look = lookOf(mine);
        return (
          <button
            key={key}
            type="button"
            className={tap(current === key)}
            aria-current={current === key ? "step" : undefined}
            title={mine ? `${SAYS[look]}: ${mine.reason}` : undefined}
            onClick={() => set({ step: key })}
          >
            <Terminal look={look} here={current === key} />
            <span>
              {name}
              <span className="sr-only">{SAYS[look] ? `, ${SAYS[look]}` : ""}</span>
            </span>
          </button>
        );
      })}
      <span className="min-h-2 flex-1" />
      <NextAct />
      <button
        type="button"
        className={`${tap(current === "sums")} border-line border-t bg-paper`}
        aria-current={current === "sums" ? "step" : undefined}
        onClick={() => set({ step: "sums" })}
      >
        <Calculator size={17} className="absolute left-[15px] text-link" aria-hidden="true" />
        Quick sums
      </button>
    </nav>
  );
}

/** Goes where the next act is to be done: to its step, and to the very place and finding where there is one. */
function goNext(standing: Standing) {
  const bench = useBench.getState();
  const { act, step } = standing;
  bench.set({ step });
  if (!act?.place) return;
  const { kind, id, track, at } = act.place;
  const place = track && at !== null && at !== undefined ? { track, at } : null;
  bench.show({ kind: kind as Kind, id }, place);
  useBench.setState({ finding: act.finding ?? null });
}

function NextAct() {
  const open = useLayout((s) => s.state !== null);
  const { data } = useWorkOrder();
  if (!open || !data) return null;
  const standing = data.steps.find((s) => s.step === data.next);
  if (!standing?.act)
    return (
      <p className="relative bg-paper px-2 py-2 text-[11px] text-mute leading-snug" data-testid="next">
        Every step is sound.
      </p>
    );
  const name = STEP_NAMES.find(({ key }) => key === standing.step)?.name;
  return (
    <button
      type="button"
      className="relative border-line border-t bg-card px-2 py-2 text-left leading-snug hover:bg-board"
      data-testid="next"
      title={standing.act.words}
      onClick={() => goNext(standing)}
    >
      <span className="flex items-center font-bold text-[12px] text-link">
        Next: {name} <ChevronRight size={13} aria-hidden="true" />
      </span>
      <span className="line-clamp-5 text-[11px]">{bound(standing.act.words)}</span>
    </button>
  );
}
