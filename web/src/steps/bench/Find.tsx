import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { newId, useProving } from "../../store/proving";
import { HuntPanel } from "./HuntPanel";
import { useHunt, useHunting, useHunts } from "./queries";
import { minutes } from "./states";

/** Find it: what is seen, then one thing to do at a time. */
export function FindCard() {
  const hunt = useProving((s) => s.hunt);
  const set = useProving((s) => s.set);
  const { data, error } = useHunt(hunt);
  const hunting = useHunting();
  useEffect(() => {
    // A hunt of another layout, or one that is gone, is let go.
    if (error) set({ hunt: null });
  }, [error, set]);
  if (!hunt || error) return <Symptoms />;
  if (!data) return <p className="p-3 text-mute">Working out what it may be…</p>;
  return (
    <HuntPanel
      standing={data.standing}
      closed={data.hunt.cause !== null ? `${data.hunt.cause}: ${data.hunt.mend}` : null}
      onSay={async (act, said) => {
        await hunting.say(hunt, { id: newId("answer"), act, said });
      }}
      onBack={async () => {
        await hunting.say(hunt, { id: newId("answer"), act: "", said: "back" });
      }}
      onEnd={async (cause, mend) => {
        await hunting.end(hunt, { cause, mend, minutes: data.standing.minutes });
      }}
      onLeave={() => set({ hunt: null })}
    />
  );
}

function Symptoms() {
  const { data } = useHunts();
  const hunting = useHunting();
  const set = useProving((s) => s.set);
  const picked = useBench((s) => s.picked);
  const [kind, setKind] = useState("trips");
  const [circuit, setCircuit] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  if (!data) return <p className="p-3 text-mute">Fetching what can be hunted…</p>;
  const wants = data.symptoms.find((s) => s.kind === kind)?.wants ?? "";
  const begin = async () => {
    setWrong(null);
    if (wants === "place" && !picked) return setWrong("Click the place on the plan first.");
    const symptom = {
      kind: kind as Shape["Symptom"]["kind"],
      ...(wants === "circuit" ? { circuit: circuit || (data.circuits[0]?.id ?? null) } : {}),
      ...(wants !== "circuit" && picked ? { track: picked.track, at: picked.at } : {}),
    };
    const id = newId("hunt");
    try {
      await hunting.begin(id, symptom);
      set({ hunt: id });
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <form
      className="p-3.5 text-[12.8px]"
      aria-label="What is seen"
      onSubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <h2 className="mb-1.5 font-bold text-sm">What is seen?</h2>
      <div className="flex flex-col gap-1">
        {data.symptoms.map((s) => (
          <label key={s.kind} className="flex items-start gap-2 rounded-md px-1 py-0.5 hover:bg-board">
            <input
              type="radio"
              name="symptom"
              className="mt-1"
              checked={kind === s.kind}
              onChange={() => setKind(s.kind)}
            />
            {s.words}
          </label>
        ))}
      </div>
      {wants === "circuit" ? (
        <label className="mt-2.5 block">
          <span className="text-[11.5px] text-mute">Whose lamp is out, or which is off</span>
          <select className="field" value={circuit} onChange={(e) => setCircuit(e.target.value)}>
            {data.circuits.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
      ) : (
        <p className="mt-2.5 text-mute">
          {picked ? "The place marked on the plan is where." : "Click the place on the plan."}
        </p>
      )}
      {wants === "circuit" && !data.circuits.length ? (
        <p className="mt-1 text-mute">No breaker or booster with its trip is on the layout yet: step Zones has them.</p>
      ) : null}
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide">
          {wrong}
        </p>
      ) : null}
      <button type="submit" className="btn btn-go mt-3">
        Find it
      </button>
      <p className="mt-3 text-mute text-xs">
        The rest of the railroad runs on meanwhile. Minutes and odds are common practice, no source; what this club
        writes up here weighs them anew.
      </p>
    </form>
  );
}

/** Hunts there were, with what it was; and what this club suffers from. */
export function HuntLog() {
  const { data } = useHunts();
  const hunt = useProving((s) => s.hunt);
  const set = useProving((s) => s.set);
  if (!data) return null;
  const most = Math.max(...data.causes.map((c) => c.count), 1);
  if (!data.hunts.length)
    return (
      <p className="p-3 text-mute">
        No fault was hunted yet. What is found is written up here: when, by whom, what it was, how long it took.
      </p>
    );
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_220px] gap-3 overflow-auto px-3">
      <table className="h-fit w-full text-[12px]" data-testid="hunts">
        <thead className="text-left text-[11px] text-mute">
          <tr>
            {["When", "What was seen", "What it was", "Mend", "Took", "Who"].map((h) => (
              <th key={h} className="border-line border-b px-2 py-1 font-medium">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.hunts.map((h) => (
            <tr key={h.id} className={`border-line border-b ${h.id === hunt ? "bg-board" : ""}`}>
              <td className="whitespace-nowrap px-2 py-1">{new Date(h.opened).toLocaleDateString()}</td>
              <td className="px-2">
                <button type="button" className="act text-left" onClick={() => set({ hunt: h.id })}>
                  {bound(h.words)}
                </button>
              </td>
              <td className="px-2">{h.cause ?? <i className="text-oxide">still open</i>}</td>
              <td className="px-2">{h.mend}</td>
              <td className="figure whitespace-nowrap px-2">{h.cause ? minutes(h.minutes) : ""}</td>
              <td className="px-2">{h.who}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <section aria-label="What this club suffers from" className="text-xs">
        <h3 className="py-1 font-semibold">What this club suffers from</h3>
        {data.causes.length ? null : <p className="text-mute">Closed hunts are counted here.</p>}
        <ul>
          {data.causes.map(({ cause, count: n }) => (
            <li key={cause} className="mb-1">
              <span className="flex justify-between">
                <span>{cause}</span>
                <span className="figure">{n}</span>
              </span>
              <div className="h-1.5 rounded bg-copper" style={{ width: `${(100 * n) / most}%` }} aria-hidden="true" />
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
