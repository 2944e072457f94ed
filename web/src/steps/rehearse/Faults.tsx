import { useState } from "react";
import { useBench } from "../../store/bench";
import { clock, useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";
import { DROPPED, FAULTS } from "./dropping";
import { Happenings } from "./Happenings";
import { drop, run } from "./run";
import { trackName } from "./usePlan";

/** What goes wrong on purpose: dragged onto the plan, or dropped where one last looked, at the moment shown. */
export function Faults() {
  const ran = useEvening((s) => s.ran);
  const planId = useEvening((s) => s.planId);
  const second = useEvening((s) => Math.floor(s.now));
  const about = useEvening((s) => s.about);
  const trace = useEvening((s) => s.trace);
  const document = useLayout((s) => s.state?.document);
  const picked = useBench((s) => s.picked);
  const [kind, setKind] = useState<string>(FAULTS[0]?.kind ?? "");
  const [which, setWhich] = useState("");
  if (!ran || !trace) return null;
  const fault = FAULTS.find((f) => f.kind === kind) ?? FAULTS[0];
  const choices: [string, string][] =
    fault?.on === "train"
      ? trace.opening.trains.map((t) => [t.key, t.name])
      : fault?.on === "device"
        ? trace.opening.devices.map((d) => [d.id, d.name])
        : fault?.on === "node"
          ? Object.entries(document?.nodes ?? {})
              .filter(([, n]) => n.hand)
              .map(([id, n]) => [id, n.name ?? id])
          : [];
  const first = about?.kind === "train" && fault?.on === "train" ? about.id : choices[0]?.[0];
  const chosen = choices.some(([id]) => id === which) ? which : (first ?? "");
  const go = () => {
    if (!fault) return;
    const seconds = second;
    if (fault.on === "track") {
      if (!picked) return;
      return void drop({ kind: fault.kind, seconds, track: picked.track, at: Math.round(picked.at * 10) / 10 });
    }
    void drop({ kind: fault.kind, seconds, [fault.on]: chosen } as never);
  };
  return (
    <Fold title="Drop something">
      <p className="text-mute text-xs">
        Drag one onto the plan: it happens at {clock(second)}, and the rest runs again.
      </p>
      <ul className="mt-1.5 flex flex-wrap gap-1">
        {FAULTS.map((f) => (
          <li key={f.kind}>
            <button
              type="button"
              draggable
              className={`cursor-grab rounded-md border px-1.5 py-0.5 text-xs ${f.kind === kind ? "border-copper bg-paper" : "border-line"}`}
              aria-pressed={f.kind === kind}
              onClick={() => setKind(f.kind)}
              onDragStart={(event) => {
                event.dataTransfer.setData(DROPPED, f.kind);
                event.dataTransfer.effectAllowed = "copy";
              }}
            >
              {f.name}
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex items-end gap-1.5">
        {fault?.on === "track" ? (
          <p className="min-w-0 flex-1 text-xs">
            {picked ? `On ${trackName(picked.track)}, where you last looked.` : "Click on a track to say where."}
          </p>
        ) : (
          <label className="min-w-0 flex-1 text-[11.5px] text-mute">
            Which
            <select className="field mt-0.5 text-ink" value={chosen} onChange={(e) => setWhich(e.target.value)}>
              {choices.map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )}
        <button type="button" className="btn" disabled={fault?.on === "track" && !picked} onClick={go}>
          Drop it at {clock(second)}
        </button>
      </div>
      <Happenings
        list={(ran.faults ?? []).map((f) => ({
          seconds: f.seconds,
          words: [
            FAULTS.find((x) => x.kind === f.kind)?.name ?? f.kind,
            ...(f.track ? [trackName(f.track)] : []),
            ...(f.train ? [trace.opening.trains.find((t) => t.key === f.train)?.name ?? f.train] : []),
          ].join(", "),
          called: f.kind,
        }))}
        onTakeOut={(k) =>
          planId && void run(planId, { ...ran, faults: ran.faults?.filter((_, n) => n !== k) }, second, true)
        }
        testid="faults"
      />
    </Fold>
  );
}
