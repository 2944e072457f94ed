import { useState } from "react";
import { answer, api, type Shape, send } from "../../api/client";
import { FilePick } from "../../parts/FilePick";
import { freeId } from "../../parts/ids";
import { Choice, Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { today } from "../../parts/when";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { amps } from "./ids";

const AMPS = ["idle", "running", "stall", "inrush"] as const;
const UNTOLD = "not said";
const LABELS = { idle: "idle", running: "running", stall: "stall", inrush: "at start" } as const;

/** Kinds of locomotive: idle, running and stall amps, each a guess until somebody measured it, with the day. */
export function Kinds() {
  const layout = useLayout((s) => s.state?.document);
  const { edit, settle } = useLayout();
  const id = useLayout((s) => s.state?.id);
  const scene = useBench((s) => s.scene);
  const [wrong, setWrong] = useState<string | null>(null);
  const kinds = Object.entries(layout?.locos ?? {});
  const metric = layout?.brief?.units === "metric";

  const add = async (age: "modern" | "old motor", sound: boolean) => {
    const scale = layout?.brief?.scale ?? "HO";
    const draws = await answer(api.GET("/api/starting-values", { params: { query: { scale, age, sound } } }));
    const name = `${age === "modern" ? "Modern" : "Old"} ${scale} locomotive${sound ? ", sound" : ""}`;
    const key = freeId(name, layout?.locos);
    await edit(`Add ${name}`, [{ op: "add", path: `/locos/${key}`, value: { name, ...draws, measured: false } }]);
  };
  const take = async (chosen: File) => {
    setWrong(null);
    const query = scene ? `?scene=${encodeURIComponent(scene)}` : "";
    try {
      settle(await send<Shape["Changed"]>(`/api/layouts/${id}/fleet${query}`, chosen));
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  const measured = (key: string, yes: boolean) =>
    edit(`${layout?.locos?.[key]?.name}: ${yes ? "measured" : "a guess"}`, [
      { op: "add", path: `/locos/${key}/measured`, value: yes },
      { op: "add", path: `/locos/${key}/measured_on`, value: yes ? today() : null },
    ]);

  return (
    <section className="rounded-xl border border-line bg-card p-4" aria-label="Kinds of locomotive">
      <div className="mb-1 flex flex-wrap items-baseline gap-x-3">
        <h2 className="font-bold text-sm">Kinds of locomotive</h2>
        <span className="flex-1" />
        <a className="act text-xs" href={`/api/layouts/${id}/files/fleet.csv`} download>
          CSV
        </a>
        <FilePick label="Fleet file" accept=".csv" className="act text-xs" onPick={(chosen) => void take(chosen)}>
          Take in a CSV…
        </FilePick>
      </div>
      <p className="mb-2 text-mute text-xs">
        Figures marked guess are usual for the scale. Measure with an ammeter in one leg: standing, running, and held
        for a moment; never hold an engine stalled.
      </p>
      {wrong ? (
        <p role="alert" className="mb-2 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      {kinds.length ? (
        <div className="grid gap-2">
          {kinds.map(([key, k]) => (
            <div key={key} className="grid grid-cols-6 items-start gap-1.5 border-line border-t pt-2" data-kind={key}>
              <div className="col-span-4">
                <Typed
                  label="Name"
                  kind="text"
                  shown={k.name}
                  onTake={(v) => edit(`Kind: ${v}`, [{ op: "replace", path: `/locos/${key}/name`, value: v }], true)}
                />
              </div>
              <div className="col-span-2 pt-5 text-right text-[11.5px]">
                <button
                  type="button"
                  className="act"
                  title={k.measured ? "Back to a guess" : "These figures were measured today"}
                  onClick={() => void measured(key, !k.measured)}
                >
                  {k.measured ? `measured${k.measured_on ? ` ${k.measured_on}` : ""}` : "guess"}
                </button>
                <button
                  type="button"
                  className="act ml-1.5"
                  aria-label={`Take ${k.name} away`}
                  onClick={async () => {
                    const used = Object.values(layout?.trains ?? {}).filter((t) => t.engines.includes(key));
                    const listed = Object.values(layout?.engines ?? {}).filter((e) => e.kind === key);
                    if (listed.length) return setWrong(`${listed.map((e) => e.name).join(", ")} in the roster is one.`);
                    if (used.length) return setWrong(`${k.name} still pulls ${used.map((t) => t.name).join(", ")}.`);
                    setWrong(null);
                    await edit(`Take ${k.name} away`, [{ op: "remove", path: `/locos/${key}` }]);
                  }}
                >
                  ✕
                </button>
              </div>
              {AMPS.map((field) => (
                <Typed
                  key={field}
                  label={LABELS[field]}
                  kind="current"
                  shown={k[field] === null || k[field] === undefined ? "" : amps(k[field] ?? 0)}
                  placeholder={field === "inrush" ? "idle" : undefined}
                  clearable={field === "inrush"}
                  onTake={(v, t) =>
                    edit(
                      `${k.name}: ${LABELS[field]} ${t || "as idle"}`,
                      [{ op: "add", path: `/locos/${key}/${field}`, value: v }],
                      true,
                    )
                  }
                />
              ))}
              <Typed
                label="pickups"
                kind="length"
                bare={metric ? "mm" : "in"}
                shown={k.pickups ? fieldLength(k.pickups, metric) : ""}
                placeholder="?"
                clearable
                onTake={(v, t) =>
                  edit(`${k.name}: pickups ${t}`, [{ op: "add", path: `/locos/${key}/pickups`, value: v }], true)
                }
              />
              <Typed
                label="stands"
                kind="volts"
                shown={k.most_volts ? `${k.most_volts} V` : ""}
                placeholder="?"
                clearable
                onTake={(v, t) =>
                  edit(
                    `${k.name}: stands ${t || "unknown volts"}`,
                    [{ op: "add", path: `/locos/${key}/most_volts`, value: v }],
                    true,
                  )
                }
              />
              <div className="col-span-2">
                <Choice
                  label="is made for"
                  value={k.runs_on ?? UNTOLD}
                  options={[UNTOLD, "digital", "direct current", "both"]}
                  onChange={(v) =>
                    void edit(`${k.name}: made for ${v}`, [
                      { op: "add", path: `/locos/${key}/runs_on`, value: v === UNTOLD ? null : v },
                    ])
                  }
                />
                <label className="mt-1 flex items-center gap-1.5">
                  <input
                    type="checkbox"
                    checked={k.capacitor ?? false}
                    onChange={(e) =>
                      void edit(`${k.name}: capacitor ${e.target.checked ? "still in" : "cut out"}`, [
                        { op: "add", path: `/locos/${key}/capacitor`, value: e.target.checked },
                      ])
                    }
                  />
                  its suppression capacitor is still in
                </label>
              </div>
            </div>
          ))}
        </div>
      ) : (
        <p className="rounded-lg border border-line bg-paper p-2.5 text-xs">
          No locomotives yet. Add a kind below; its amps start as a guess.
        </p>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        <button type="button" className="btn" onClick={() => void add("modern", false)}>
          Add a modern one
        </button>
        <button type="button" className="btn" onClick={() => void add("modern", true)}>
          with sound
        </button>
        <button type="button" className="btn" onClick={() => void add("old motor", false)}>
          Add one with an old motor
        </button>
      </div>
    </section>
  );
}
