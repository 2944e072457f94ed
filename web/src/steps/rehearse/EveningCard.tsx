import { Copy, Play, Plus, Square, Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { freeId } from "../../parts/ids";
import { Choice, Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { run, stop } from "./run";
import { changePlan, usePlan } from "./usePlan";

const RULES = ["signals alone", "direction", "safe moves"] as const;
const RULE_WORDS = {
  "signals alone": "Whoever finds the signal clear goes on.",
  direction: "Trains run one way at a time over single lines.",
  "safe moves": "Nobody goes on who would leave another no way out.",
};

/** The plan in hand: chosen, made from a scene, copied, thrown away, and run. */
export function EveningCard() {
  const document = useLayout((s) => s.state?.document);
  const revision = useLayout((s) => s.state?.revision);
  const edit = useLayout((s) => s.edit);
  const scene = useBench((s) => s.scene);
  const running = useEvening((s) => s.running);
  const ranOn = useEvening((s) => (s.trace ? s.revision : null));
  const wrong = useEvening((s) => s.wrong);
  const problems = useEvening((s) => s.cameTo?.problems);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [homeless, setHomeless] = useState<string[]>([]);
  const found = usePlan();
  const plans = Object.entries(document?.plans ?? {});
  const scenes = Object.entries(document?.scenes ?? {});
  const [from, setFrom] = useState<string | null>(null);
  const base = from ?? scene ?? scenes[0]?.[0] ?? "";

  const make = async () => {
    setTrouble(null);
    setHomeless([]);
    const state = useLayout.getState().state;
    if (!state || !base) return;
    try {
      const made = await answer(
        api.POST("/api/layouts/{layout_id}/rehearse/plan", {
          params: { path: { layout_id: state.id } },
          body: { scene: base },
        }),
      );
      const id = freeId(made.plan.name, document?.plans);
      setHomeless(made.homeless);
      const why = await edit(`Plan ${made.plan.name}`, [{ op: "add", path: `/plans/${id}`, value: made.plan }], true);
      if (why) return setTrouble(why);
      useEvening.getState().set({ planId: id });
      setFrom(null);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  const copy = async () => {
    if (!found) return;
    const name = `${found.plan.name} copy`;
    const id = freeId(name, document?.plans);
    await edit(`Copy ${found.plan.name}`, [{ op: "add", path: `/plans/${id}`, value: { ...found.plan, name } }]);
    useEvening.getState().set({ planId: id });
  };
  return (
    <section className="border-line border-b p-3" aria-label="Evening">
      <h2 className="font-bold text-sm">Evening</h2>
      {found ? (
        <>
          <div className="mt-2 flex items-end gap-1.5">
            <label className="min-w-0 flex-1 text-[11.5px] text-mute">
              Plan
              <select
                className="field mt-0.5 text-ink"
                value={found.id}
                onChange={(e) => useEvening.getState().set({ planId: e.target.value })}
              >
                {plans.map(([id, p]) => (
                  <option key={id} value={id}>
                    {p.name}
                  </option>
                ))}
              </select>
            </label>
            <button
              type="button"
              className="btn px-1.5"
              aria-label={`Copy ${found.plan.name}`}
              onClick={() => void copy()}
            >
              <Copy size={14} aria-hidden="true" />
            </button>
            <button
              type="button"
              className="btn px-1.5"
              aria-label={`Throw ${found.plan.name} away`}
              onClick={() => void edit(`Throw ${found.plan.name} away`, [{ op: "remove", path: `/plans/${found.id}` }])}
            >
              <Trash2 size={14} aria-hidden="true" />
            </button>
          </div>
          <div className="mt-2 grid grid-cols-2 gap-2">
            <Typed
              label="Called"
              kind="text"
              shown={found.plan.name}
              onTake={(v) => changePlan(found.id, `Rename ${found.plan.name}`, "/name", v)}
            />
            <Figure label="Minutes" value={found.plan.minutes ?? 180} path="/minutes" id={found.id} />
            <Figure
              label="Calls again every, s"
              value={found.plan.round ?? null}
              path="/round"
              id={found.id}
              optional
            />
            <Figure
              label="A person comes after, s"
              value={found.plan.person_after ?? 60}
              path="/person_after"
              id={found.id}
            />
          </div>
          <div className="mt-2">
            <Choice
              label="On single lines"
              value={found.plan.single_lines ?? "signals alone"}
              options={RULES}
              onChange={(v) => void changePlan(found.id, `Single lines by ${v}`, "/single_lines", v)}
            />
            <p className="mt-0.5 text-[11px] text-mute">{RULE_WORDS[found.plan.single_lines ?? "signals alone"]}</p>
          </div>
          <div className="mt-2 flex items-center gap-2">
            {running ? (
              <button type="button" className="btn flex items-center gap-1" onClick={stop}>
                <Square size={13} aria-hidden="true" /> Stop working it out
              </button>
            ) : (
              <button
                type="button"
                className="btn-main flex items-center gap-1"
                onClick={() => void run(found.id, found.plan)}
              >
                <Play size={14} aria-hidden="true" /> Run the evening
              </button>
            )}
            {ranOn !== null && ranOn !== revision ? (
              <span className="text-[11px] text-link">The layout has changed since it ran.</span>
            ) : null}
          </div>
          {wrong ? (
            <p role="alert" className="mt-2 text-oxide text-xs">
              {wrong}
            </p>
          ) : null}
          {problems?.length ? (
            <ul role="alert" className="mt-2 grid gap-1 text-oxide text-xs" data-testid="plan-problems">
              {problems.map((p) => (
                <li key={p.path + p.sentence}>{p.sentence}</li>
              ))}
            </ul>
          ) : null}
        </>
      ) : (
        <p className="mt-1 text-mute text-xs">
          No evening is planned yet. The trains of a scene are put where they fit: those that run go where signals let
          them, those that idle stand.
        </p>
      )}
      {scenes.length ? (
        <div className="mt-2 flex items-end gap-1.5">
          <label className="min-w-0 flex-1 text-[11.5px] text-mute">
            From scene
            <select className="field mt-0.5 text-ink" value={base} onChange={(e) => setFrom(e.target.value)}>
              {scenes.map(([id, s]) => (
                <option key={id} value={id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="btn flex items-center gap-1" onClick={() => void make()}>
            <Plus size={14} aria-hidden="true" /> New plan
          </button>
        </div>
      ) : (
        <p className="mt-2 text-xs">
          Make a scene in step Trains first:{" "}
          <button type="button" className="act" onClick={() => useBench.getState().set({ step: "trains" })}>
            go there
          </button>
          .
        </p>
      )}
      {homeless.length ? <p className="mt-1 text-link text-xs">No room was found for {homeless.join(", ")}.</p> : null}
      {trouble ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {trouble}
        </p>
      ) : null}
    </section>
  );
}

/** A plain number of a plan, or none. */
export function Figure({
  label,
  value,
  path,
  id,
  optional,
  hideLabel,
}: {
  label: string;
  value: number | null;
  path: string;
  id: string;
  optional?: boolean;
  hideLabel?: boolean;
}) {
  return (
    <Typed
      label={label}
      kind="text"
      hideLabel={hideLabel}
      clearable={optional}
      shown={value === null ? "" : String(value)}
      placeholder={optional ? "none" : undefined}
      onTake={async (v) => {
        if (v === null) return changePlan(id, `${label}: none`, path, null);
        const n = Number(String(v).replace(",", "."));
        if (!Number.isFinite(n)) return "This must be a number.";
        return changePlan(id, `${label} ${n}`, path, n);
      }}
    />
  );
}
