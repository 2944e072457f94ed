import { Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { useLayout } from "../../store/layout";

/** What a train is as it runs: its speed, where it stops from it, engines at its rear, and how its decoders fill. */
export function OfTrain({ id }: { id: string }) {
  const train = useLayout((s) => s.state?.document.trains?.[id]);
  const locos = useLayout((s) => s.state?.document.locos);
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  const edit = useLayout((s) => s.edit);
  if (!train) return null;
  const number = (path: string, words: string) => async (v: number | string | null) => {
    if (v === null) return edit(`${train.name}: ${words} as usual`, [{ op: "add", path, value: null }], true);
    const n = Number(String(v).replace(",", "."));
    if (!Number.isFinite(n)) return "This must be a number.";
    return edit(`${train.name}: ${words} ${n}`, [{ op: "add", path, value: n }], true);
  };
  const stops = train.stops_in;
  return (
    <div className="flex flex-wrap items-end gap-2">
      <div className="w-28">
        <Typed
          label="Scale km/h"
          kind="text"
          clearable
          shown={train.scale_kmh == null ? "" : String(train.scale_kmh)}
          placeholder="60, usual"
          onTake={number(`/trains/${id}/scale_kmh`, "line speed")}
        />
      </div>
      <div className="w-28">
        <Typed
          label="Stops in"
          kind="length"
          clearable
          bare={metric ? "mm" : "in"}
          shown={stops == null ? "" : fieldLength(stops, metric)}
          placeholder="the house's"
          onTake={number(`/trains/${id}/stops_in`, "stops in")}
        />
      </div>
      <div className="w-28">
        <Typed
          label="Engines at its rear"
          kind="text"
          shown={String(train.helpers ?? 0)}
          onTake={number(`/trains/${id}/helpers`, "engines at its rear")}
        />
      </div>
      {[...new Set(train.engines)].map((kind) => (
        <div key={kind} className="flex items-end gap-2">
          {(
            [
              ["fill_seconds", "fills in, s"],
              ["hold_seconds", "holds, s"],
            ] as const
          ).map(([field, words]) => (
            <div key={field} className="w-32">
              <Typed
                label={`${(locos?.[kind]?.name ?? kind).split(",")[0]} ${words}`}
                kind="text"
                clearable
                shown={locos?.[kind]?.[field] == null ? "" : String(locos[kind]?.[field])}
                placeholder="usual"
                onTake={number(`/locos/${kind}/${field}`, words)}
              />
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}
