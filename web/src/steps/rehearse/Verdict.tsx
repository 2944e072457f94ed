import { useBench } from "../../store/bench";
import { clock, useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { keepIt } from "./keeping";
import { goTo, run } from "./run";
import { usePlan } from "./usePlan";

const INK: Record<string, string> = { bad: "bg-oxide", look: "bg-amber", good: "bg-verd" };
const SAYS: Record<string, string> = { bad: "to mend", look: "to look at", good: "well" };

/** What the evening came to, the worst first, each with its moment and what would mend it. */
export function Verdict() {
  const cameTo = useEvening((s) => s.cameTo);
  const trace = useEvening((s) => s.trace);
  const before = useEvening((s) => s.before);
  const found = usePlan();
  const set = useBench((s) => s.set);
  if (!trace || !cameTo?.sentences?.length) return null;
  const mend = async (words: string, patch: Record<string, unknown>[]) => {
    const why = await useLayout.getState().edit(words.slice(0, 80), patch as never, true);
    if (why) return useBench.getState().set({ note: why });
    const state = useLayout.getState().state;
    const { planId } = useEvening.getState();
    const plan = planId ? state?.document.plans?.[planId] : undefined;
    if (planId && plan) await run(planId, plan as never, 0, true);
  };
  return (
    <section className="border-line border-b p-3" aria-label="What it came to" data-testid="verdict">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="font-bold text-sm">What it came to</h2>
        <button type="button" className="act text-xs" onClick={() => void keepIt()}>
          Keep this rehearsal
        </button>
      </div>
      {before ? <Compared /> : null}
      <ul className="mt-2 grid gap-2">
        {cameTo.sentences.map((s) => (
          <li key={s.words} className="grid grid-cols-[10px_minmax(0,1fr)] gap-2 text-[12.5px] leading-snug">
            <span className={`mt-1.5 h-2 w-2 ${s.grade === "bad" ? "" : "rounded-full"} ${INK[s.grade]}`}>
              <span className="sr-only">{SAYS[s.grade]}</span>
            </span>
            <div>
              {s.words}
              {s.t !== null ? (
                <button
                  type="button"
                  className="act ml-1 whitespace-nowrap text-xs"
                  onClick={() => {
                    const entry = s.entry === null ? undefined : trace.entries[s.entry];
                    if (entry) useEvening.setState({ about: { kind: "entry", id: String(entry.n) } });
                    goTo(s.t ?? 0, entry?.track, entry?.at);
                  }}
                >
                  Show {clock(s.t)}
                </button>
              ) : null}
              {s.mends.map((m) => (
                <div key={m.words} className="mt-1 border-line border-l-2 pl-2 text-xs">
                  {m.words}{" "}
                  {m.patch.length && found ? (
                    <button
                      type="button"
                      className="btn mt-1 block py-0.5 text-xs"
                      onClick={() => void mend(m.words, m.patch)}
                    >
                      Do it and run again
                    </button>
                  ) : m.step !== "rehearse" ? (
                    <button
                      type="button"
                      className="act whitespace-nowrap"
                      onClick={() => set({ step: m.step as never })}
                    >
                      Step {m.step[0]?.toUpperCase()}
                      {m.step.slice(1)}
                    </button>
                  ) : null}
                </div>
              ))}
            </div>
          </li>
        ))}
      </ul>
      {trace.opening.assumed.length ? (
        <details className="mt-2 text-xs">
          <summary className="cursor-pointer text-mute">Taken for usual: {trace.opening.assumed.length}</summary>
          <ul className="mt-1 grid gap-1">
            {trace.opening.assumed.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </details>
      ) : null}
    </section>
  );
}

/** The run before beside this one, by what they came to. */
function Compared() {
  const cameTo = useEvening((s) => s.cameTo);
  const before = useEvening((s) => s.before);
  if (!cameTo || !before) return null;
  const old = new Set(before.cameTo.sentences?.filter((s) => s.grade !== "good").map((s) => s.words));
  const now = new Set(cameTo.sentences?.filter((s) => s.grade !== "good").map((s) => s.words));
  const gone = [...old].filter((w) => !now.has(w));
  const fresh = [...now].filter((w) => !old.has(w));
  return (
    <div className="mt-2 rounded-md border border-line bg-paper p-2 text-xs" data-testid="compared">
      <p className="font-semibold">Beside the run before</p>
      {gone.length || fresh.length ? null : <p className="mt-1">Nothing to settle came or went.</p>}
      <ul className="mt-1 grid gap-1">
        {gone.map((w) => (
          <li key={w}>
            <span className="font-semibold text-verd">gone</span> {w}
          </li>
        ))}
        {fresh.map((w) => (
          <li key={w}>
            <span className="font-semibold text-oxide">new</span> {w}
          </li>
        ))}
      </ul>
    </div>
  );
}
