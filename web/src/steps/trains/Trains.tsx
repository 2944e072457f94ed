import { useState } from "react";
import { useFleet } from "../../api/queries";
import { bound } from "../../parts/bound";
import { freeId } from "../../parts/ids";
import { Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { Whole } from "../../parts/Whole";
import { useLayout } from "../../store/layout";
import { amps } from "./ids";

/** Trains: their engines, length, lit cars and resistor axles, with what each draws. */
export function Trains() {
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const { data } = useFleet();
  const [wrong, setWrong] = useState<string | null>(null);
  const metric = layout?.brief?.units === "metric";
  const kinds = Object.entries(layout?.locos ?? {});
  const first = kinds[0]?.[0];
  const add = async () => {
    const name = `Train ${1 + Object.keys(layout?.trains ?? {}).length}`;
    const value = { name, engines: [first], length: metric ? 1000 : 914.4, lit_cars: 0 };
    await edit(`Add ${name}`, [{ op: "add", path: `/trains/${freeId(name, layout?.trains)}`, value }]);
  };
  const remove = async (key: string, name: string) => {
    const scenes = Object.values(layout?.scenes ?? {}).filter((s) => s.placements?.some((p) => p.train === key));
    if (scenes.length) return setWrong(`${name} is still in ${scenes.map((s) => s.name).join(", ")}.`);
    setWrong(null);
    await edit(`Take ${name} away`, [{ op: "remove", path: `/trains/${key}` }]);
  };
  return (
    <section className="rounded-xl border border-line bg-card p-4" aria-label="Trains">
      <h2 className="mb-2 font-bold text-sm">Trains</h2>
      {wrong ? (
        <p role="alert" className="mb-2 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      <div className="grid gap-2">
        {Object.entries(layout?.trains ?? {}).map(([key, t]) => {
          const set = (field: string, value: unknown, words: string) =>
            edit(`${t.name}: ${words}`, [{ op: "add", path: `/trains/${key}/${field}`, value }], true);
          const counted = (field: string) => (n: number) => set(field, n, `${n} ${field.replaceAll("_", " ")}`);
          const draws = data?.trains[key];
          return (
            <div key={key} className="border-line border-t pt-2" data-train={key}>
              <div className="grid grid-cols-[minmax(0,1fr)_78px_58px_68px_62px] items-start gap-1.5">
                <Typed label="Name" kind="text" shown={t.name} onTake={(v) => set("name", v, String(v))} />
                <Typed
                  label="Length"
                  kind="length"
                  shown={lengthText(t.length, metric)}
                  onTake={(v, words) => set("length", v, words)}
                />
                <Whole label="Lit cars" value={t.lit_cars ?? 0} most={100} onTake={counted("lit_cars")} />
                <Typed
                  label="each draws"
                  kind="current"
                  shown={amps(t.amps_per_lit_car ?? 0.03)}
                  onTake={(v, words) => set("amps_per_lit_car", v, `lit cars draw ${words}`)}
                />
                <Whole label="R axles" value={t.resistor_axles ?? 0} most={400} onTake={counted("resistor_axles")} />
              </div>
              <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1 text-xs">
                {t.engines.map((e, n) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: an engine is its place in the train
                  <span key={n} className="rounded-full border border-line bg-paper px-2">
                    {layout?.locos?.[e]?.name ?? e}
                    {t.engines.length > 1 ? (
                      <button
                        type="button"
                        className="ml-1 text-mute"
                        aria-label={`Take ${layout?.locos?.[e]?.name} off ${t.name}`}
                        onClick={() =>
                          void set(
                            "engines",
                            t.engines.filter((_, k) => k !== n),
                            "one engine less",
                          )
                        }
                      >
                        ✕
                      </button>
                    ) : null}
                  </span>
                ))}
                <select
                  aria-label={`Add an engine to ${t.name}`}
                  className="field w-auto py-0 text-xs"
                  value=""
                  onChange={(event) => void set("engines", [...t.engines, event.target.value], "one engine more")}
                >
                  <option value="">add an engine…</option>
                  {kinds.map(([k, v]) => (
                    <option key={k} value={k}>
                      {v.name}
                    </option>
                  ))}
                </select>
                <label className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    className="accent-[var(--copper)]"
                    checked={t.metal_wheels ?? true}
                    onChange={(e) =>
                      void set("metal_wheels", e.target.checked, e.target.checked ? "metal wheels" : "plastic wheels")
                    }
                  />
                  metal wheels
                </label>
                <span className="flex-1" />
                {draws ? (
                  <span className="figure">
                    {bound(draws.running_text)} running, {bound(draws.idling_text)} standing
                    {draws.guessed ? ", a guess" : ""}
                  </span>
                ) : null}
                <button
                  type="button"
                  className="act"
                  aria-label={`Take ${t.name} away`}
                  onClick={() => void remove(key, t.name)}
                >
                  ✕
                </button>
              </div>
            </div>
          );
        })}
      </div>
      <button
        type="button"
        className="btn mt-3"
        disabled={!first}
        onClick={() => void add()}
        title={first ? "" : "Add a kind of locomotive first"}
      >
        Add a train
      </button>
    </section>
  );
}
