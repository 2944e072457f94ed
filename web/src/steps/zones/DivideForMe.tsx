import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { useProposal } from "../../api/useProposal";
import { Preview } from "../../findings/Preview";
import { Busy } from "../../parts/Busy";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";

type Division = Shape["DivisionShape"];
const PARTS = ["", "1", "2", "3", "4", "5", "6"] as const;

/** The tool divides the railroad: what is asked, what it proposes and why, and one change that makes it. */
export function DivideForMe() {
  const { id, revision, scene } = useWhere();
  const divided = useLayout((s) => Object.values(s.state?.document.devices ?? {}).some((d) => d.kind === "breaker"));
  const source = useLayout((s) =>
    Object.values(s.state?.document.devices ?? {}).some((d) => d.kind === "booster" || d.kind === "station"),
  );
  const set = useBench((s) => s.set);
  const [amps, setAmps] = useState(5);
  const [parts, setParts] = useState("");
  const [keep, setKeep] = useState(false);
  const [making, setMaking] = useState(false);
  const query = new URLSearchParams({ revision: String(revision), booster_amps: String(amps), keep: String(keep) });
  if (scene) query.set("scene", scene);
  if (parts) query.set("main_parts", parts);
  const { shown, error, busy, doing, ask, forget } = useProposal<Division>("division", id, query.toString());
  useEffect(() => {
    set({ ghostInks: shown?.inks ?? [], ghostGaps: shown?.cuts.filter((c) => c.new) ?? [] });
    return () => useBench.getState().set({ ghostInks: [], ghostGaps: [] });
  }, [shown, set]);
  return (
    <Fold title="Divide for me" open={!divided}>
      <form
        className="grid grid-cols-2 gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set({ look: "zones", paint: null });
          ask();
        }}
      >
        <Typed
          label="Boosters to buy give"
          kind="current"
          shown={`${amps} A`}
          onTake={async (v) => {
            if (typeof v !== "number" || v <= 0.5 || v > 40) return "Between 0.5 and 40 A.";
            setAmps(v);
            return null;
          }}
        />
        <label className="text-[11.5px] text-mute">
          The main in
          <select className="field mt-0.5 text-ink" value={parts} onChange={(e) => setParts(e.target.value)}>
            {PARTS.map((p) => (
              <option key={p} value={p}>
                {p === "" ? "as the house rule asks" : p === "1" ? "1 part" : `${p} parts`}
              </option>
            ))}
          </select>
        </label>
        <label className="col-span-2 flex items-center gap-1.5 text-xs">
          <input type="checkbox" checked={keep} onChange={(e) => setKeep(e.target.checked)} />
          Keep the districts there are; add only what is missing
        </label>
        <button type="submit" className="btn-main col-span-2" disabled={!source || busy}>
          {busy ? "Working it out…" : "Work it out"}
        </button>
      </form>
      {source ? null : <p className="mt-1.5 text-xs">Place a booster first: step Track, tool Source.</p>}
      <Busy busy={busy} doing={doing} error={error} />
      {shown ? <Proposal division={shown} onMake={() => setMaking(true)} /> : null}
      {shown && making ? (
        <Preview
          title={`${shown.needs.join(", ")}. Gaps can be moved afterwards; wires are laid along the track, and step Wire sizes them.`}
          decides={`${shown.needs.join(", ")}: ${shown.districts.map((d) => `${d.name} because ${d.why}`).join("; ")}.`}
          mend={shown.change}
          onClose={() => setMaking(false)}
          onMade={() => {
            forget();
            set({ ghostInks: [], ghostGaps: [] });
          }}
        />
      ) : null}
    </Fold>
  );
}

function Proposal({ division, onMake }: { division: Division; onMake: () => void }) {
  return (
    <div className="mt-2.5 text-[12px]" data-testid="division">
      {division.warning ? (
        <p role="alert" className="mb-1.5 rounded-md border border-oxide p-2 text-oxide text-xs">
          {division.warning}
        </p>
      ) : null}
      <ul className="grid gap-1.5">
        {division.districts.map((d) => (
          <li key={d.name} className="rounded-lg border border-line bg-paper px-2 py-1.5">
            <div className="flex items-baseline justify-between gap-2">
              <b className="flex items-center gap-1.5">
                <i aria-hidden="true" className="block size-2.5 rounded-full" style={{ background: d.ink }} />
                {d.name}
              </b>
              <span className="text-[11px] text-mute">
                {bound(d.length_text)} · {d.booster}
              </span>
            </div>
            <p className="leading-snug">
              At most <b className={`figure ${d.over ? "text-oxide" : ""}`}>{bound(d.worst_text)}</b>, one stalled{" "}
              <span className="figure">{bound(d.stalled_text)}</span>; breaker{" "}
              <b className="figure">
                {bound(d.trip_text)}
                {d.kept ? ", there already" : ""}
              </b>
              .
            </p>
            <p className="text-[11.3px] text-mute leading-snug">
              Because {bound(d.why)}. Too much asked {bound(d.chance_text)}.
            </p>
          </li>
        ))}
      </ul>
      <h3 className="mt-2 font-semibold text-xs">Boosters</h3>
      {division.boosters.map((b) => (
        <div key={b.name} className="mt-1">
          <div className="flex justify-between text-[11.5px]">
            <span>
              {b.name}
              {b.bought ? ", to buy" : ""}
            </span>
            <span className="figure">
              {bound(b.asked_text)} of {bound(b.gives_text)}
            </span>
          </div>
          <div className="h-1.5 rounded bg-board">
            <div
              className={`h-1.5 rounded ${b.share > 1 ? "bg-oxide" : "bg-verd"}`}
              style={{ width: `${Math.min(b.share, 1) * 100}%` }}
            />
          </div>
        </div>
      ))}
      <details className="mt-2">
        <summary className="cursor-pointer text-xs">{division.needs.join(", ")}</summary>
        <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
          {division.cuts
            .filter((c) => c.new)
            .map((c) => (
              <li key={c.words}>{bound(c.words)}</li>
            ))}
        </ul>
      </details>
      <button type="button" className="btn-main mt-2 w-full" onClick={onMake}>
        Make it…
      </button>
    </div>
  );
}
