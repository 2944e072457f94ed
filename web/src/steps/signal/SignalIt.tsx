import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { useSignallingSchools, useWhere } from "../../api/queries";
import { useProposal } from "../../api/useProposal";
import { Preview } from "../../findings/Preview";
import { Busy } from "../../parts/Busy";
import { bound } from "../../parts/bound";
import { Choice } from "../../parts/Typed";
import { Wanted } from "../../parts/Wanted";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { useOff } from "../detect/BlockIt";
import { Fold } from "../track/Fold";

type Signalling = Shape["SignallingShape"];
const SCHOOLS = ["two aspects", "three aspects", "three aspects and diverging"] as const;
const KINDS = ["colour light", "searchlight", "semaphore"] as const;

/** The tool sets the signals: by which rules, of what kind, and one change that makes it. */
export function SignalIt() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const brief = useLayout((s) => s.state?.document.brief);
  const blocked = useLayout((s) => Object.keys(s.state?.document.blocks ?? {}).length > 0);
  const { data: schools } = useSignallingSchools();
  const there = useLayout((s) => Object.keys(s.state?.document.signals ?? {}).length > 0);
  const [school, setSchool] = useState<(typeof SCHOOLS)[number]>(brief?.signalling?.school ?? "three aspects");
  const [kind, setKind] = useState<(typeof KINDS)[number]>(
    (brief?.signalling?.kind as "searchlight") ?? "colour light",
  );
  const [main, setMain] = useState(false);
  const [turnouts, setTurnouts] = useState(true);
  const [lit, setLit] = useState(brief?.signalling?.approach_lit ?? false);
  const [restricting, setRestricting] = useState(brief?.signalling?.restricting ?? true);
  const query = new URLSearchParams({
    revision: String(revision),
    school,
    kind,
    only_main: String(main),
    turnouts: String(turnouts),
    approach_lit: String(lit),
    restricting: String(restricting),
  });
  const { shown, error, busy, doing, ask, forget } = useProposal<Signalling>("signalling", id, query.toString());
  const [making, setMaking] = useState(false);
  const off = useOff();
  useEffect(() => {
    set({ ghostHeads: shown?.heads ?? [] });
    return () => useBench.getState().set({ ghostHeads: [] });
  }, [shown, set]);
  return (
    <Fold title="Signal it" open={!there}>
      {there ? null : <Wanted what="signals" path="signalling" />}
      <form
        className="grid grid-cols-2 gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set({ look: "signals" });
          ask();
        }}
      >
        <div className="col-span-2">
          <Choice label="Rules" value={school} options={SCHOOLS} onChange={setSchool} />
        </div>
        <Choice label="Heads" value={kind} options={KINDS} onChange={setKind} />
        <label className="flex items-center gap-1.5 self-end pb-1.5 text-xs">
          <input type="checkbox" checked={main} onChange={(e) => setMain(e.target.checked)} /> only the main
        </label>
        <label className="col-span-2 flex items-center gap-1.5 text-xs">
          <input type="checkbox" checked={turnouts} onChange={(e) => setTurnouts(e.target.checked)} />
          Motors that report on signalled turnouts
        </label>
        <label className="col-span-2 flex items-center gap-1.5 text-xs">
          <input type="checkbox" checked={restricting} onChange={(e) => setRestricting(e.target.checked)} />
          Restricting into track nobody watches
        </label>
        <label className="col-span-2 flex items-center gap-1.5 text-xs">
          <input type="checkbox" checked={lit} onChange={(e) => setLit(e.target.checked)} />
          Lamps burn only while a train comes near
        </label>
        <button type="submit" className="btn-main col-span-2" disabled={busy || !blocked}>
          {busy ? "Working it out…" : there ? "Signal what is missing" : "Signal it"}
        </button>
      </form>
      <p className="mt-1.5 text-[11.5px] text-mute">
        {schools?.schools.find((s) => s.name === school)?.why} {schools?.kinds.find((s) => s.name === kind)?.why} Which
        way trains run on a track is chosen on its card: click it.
      </p>
      {blocked ? null : (
        <p className="mt-1 text-xs">
          Signals stand between blocks.{" "}
          <button type="button" className="act" onClick={() => set({ step: "detect" })}>
            Block it first
          </button>
        </p>
      )}
      {there ? (
        <button type="button" className="act mt-1 text-xs" onClick={() => void off.ask("signals-off")}>
          Take all signals away…
        </button>
      ) : null}
      <Busy busy={busy} doing={doing} error={error} />
      {shown ? (
        <div className="mt-2.5 text-[12px]" data-testid="signalling">
          <ul className="list-disc pl-4">
            {shown.words.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
          <details className="mt-1.5">
            <summary className="cursor-pointer text-xs">Every signal, and why</summary>
            <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
              {shown.heads.map((h) => (
                <li key={h.words}>{bound(h.words)}</li>
              ))}
            </ul>
          </details>
          <button type="button" className="btn-main mt-2 w-full" onClick={() => setMaking(true)}>
            Make it…
          </button>
        </div>
      ) : null}
      {shown && making ? (
        <Preview
          title={`${shown.words.join(", ")}. Every signal can be moved or turned afterwards.`}
          decides={`${shown.words.join(", ")}.`}
          mend={shown.change}
          onClose={() => setMaking(false)}
          onMade={forget}
        />
      ) : null}
      {off.sheet}
    </Fold>
  );
}
