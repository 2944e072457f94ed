import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shape, send } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Preview } from "../../findings/Preview";
import { Settings } from "../../inspect/Settings";
import { bound } from "../../parts/bound";
import { Columns } from "../../parts/Columns";
import { FilePick } from "../../parts/FilePick";
import { freeId } from "../../parts/ids";
import { Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { Whole } from "../../parts/Whole";
import { useLayout } from "../../store/layout";
import { amps } from "./ids";

type Engine = Shape["Engine"];
const HEADS = ["Number", "Name", "Kind", "Stands", "Standing", "Running", "Held", "Stops in", ""] as const;
const MEASURED = [
  ["idle", "Standing"],
  ["running", "Running"],
  ["stall", "Held"],
] as const;

/** The roster: every engine by its number, with what was measured of it, how it is set, and its troubles. */
export function Roster() {
  const { id, revision } = useWhere();
  const layout = useLayout((s) => s.state?.document);
  const { edit, settle } = useLayout();
  const [wrong, setWrong] = useState<string | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const [making, setMaking] = useState(false);
  const engines = Object.entries(layout?.engines ?? {}).sort(([, a], [, b]) => (a.number ?? 1e5) - (b.number ?? 1e5));
  const kinds = Object.entries(layout?.locos ?? {});
  const { data: taught } = useQuery({
    queryKey: ["roster-teaches", id, revision],
    enabled: engines.length > 0,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/roster-teaches", {
          params: { path: { layout_id: id }, query: { revision } },
        }),
      ),
  });
  const add = () => {
    const kind = kinds[0];
    if (!kind) return setWrong("Name a kind of locomotive first, above.");
    setWrong(null);
    const name = `Engine ${engines.length + 1}`;
    return void edit(`Add ${name}`, [
      { op: "add", path: `/engines/${freeId(name, layout?.engines)}`, value: { name, kind: kind[0] } },
    ]);
  };
  const take = async (file: File) => {
    setWrong(null);
    try {
      settle(await send<Shape["Changed"]>(`/api/layouts/${id}/roster`, file));
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <section className="rounded-xl border border-line bg-card p-4" aria-label="Roster" data-testid="roster">
      <div className="mb-1 flex flex-wrap items-baseline gap-x-3">
        <h2 className="font-bold text-sm">Roster</h2>
        <span className="flex-1" />
        <button type="button" className="act text-xs" onClick={add}>
          One more engine
        </button>
        <a className="act text-xs" href={`/api/layouts/${id}/files/roster.csv`} download>
          CSV
        </a>
        <FilePick label="Roster file" accept=".csv" className="act text-xs" onPick={(file) => void take(file)}>
          Take in a roster…
        </FilePick>
      </div>
      <p className="mb-2 text-mute text-xs">
        Every engine by the number it answers to. What is measured of single engines teaches their kinds.
      </p>
      {wrong ? (
        <p role="alert" className="mb-2 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      {engines.length ? (
        <table className="w-full text-[12px]">
          <Columns names={HEADS} />
          <tbody>
            {engines.map(([key, e]) => (
              <Row
                key={key}
                id={key}
                engine={e}
                kinds={kinds.map(([k, v]) => [k, v.name])}
                open={open === key}
                toggle={() => setOpen(open === key ? null : key)}
              />
            ))}
          </tbody>
        </table>
      ) : (
        <p className="text-mute text-xs">No engine is listed.</p>
      )}
      {taught?.change ? (
        <div className="mt-2 text-[12px]">
          <ul className="list-disc pl-4">
            {taught.words.map((w) => (
              <li key={w}>{bound(w)}</li>
            ))}
          </ul>
          <button type="button" className="btn mt-1" onClick={() => setMaking(true)}>
            Take these figures over…
          </button>
        </div>
      ) : null}
      {taught?.change && making ? (
        <Preview title={taught.words.join(". ")} mend={taught.change} onClose={() => setMaking(false)} />
      ) : null}
    </section>
  );
}

function Row({
  id,
  engine,
  kinds,
  open,
  toggle,
}: {
  id: string;
  engine: Engine;
  kinds: [string, string][];
  open: boolean;
  toggle: () => void;
}) {
  const edit = useLayout((s) => s.edit);
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  const put = (field: string, value: unknown, words: string) =>
    edit(`${engine.name}: ${words}`, [{ op: "add", path: `/engines/${id}/${field}`, value }], true);
  return (
    <>
      <tr className="border-line border-b align-top">
        <td className="w-16 py-1 pr-1.5">
          <Whole
            label={`Number of ${engine.name}`}
            hideLabel
            value={engine.number ?? null}
            least={1}
            most={9999}
            none={{ says: "—", onTake: () => put("number", null, "no number") }}
            onTake={(n) => put("number", n, `number ${n}`)}
          />
        </td>
        <td className="py-1 pr-1.5">
          <Typed
            label={`Name of ${engine.name}`}
            hideLabel
            kind="text"
            shown={engine.name}
            onTake={(v) => put("name", v, String(v))}
          />
        </td>
        <td className="py-1 pr-1.5">
          <select
            className="field"
            aria-label={`Kind of ${engine.name}`}
            value={engine.kind}
            onChange={(e) => void put("kind", e.target.value, "another kind")}
          >
            {kinds.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </td>
        <td className="w-16 py-1 pr-1.5">
          <Typed
            label={`Volts ${engine.name} stands`}
            hideLabel
            kind="volts"
            shown={engine.most_volts ? `${engine.most_volts} V` : ""}
            placeholder="?"
            clearable
            onTake={(v, t) => put("most_volts", v, t ? `stands ${t}` : "volts not known")}
          />
        </td>
        {MEASURED.map(([field, label]) => (
          <td key={field} className="w-20 py-1 pr-1.5">
            <Typed
              label={`${label} amps of ${engine.name}`}
              hideLabel
              kind="current"
              shown={engine[field] == null ? "" : amps(engine[field] ?? 0)}
              placeholder="—"
              clearable
              onTake={(v, t) =>
                put(field, v, t ? `${label.toLowerCase()} ${t}` : `${label.toLowerCase()} not measured`)
              }
            />
          </td>
        ))}
        <td className="w-20 py-1 pr-1.5">
          <Typed
            label={`${engine.name} stops in`}
            hideLabel
            kind="length"
            bare={metric ? "mm" : "in"}
            shown={engine.stops_in ? fieldLength(engine.stops_in, metric) : ""}
            placeholder="—"
            clearable
            onTake={(v, t) => put("stops_in", v, t ? `stops in ${t}` : "stop not measured")}
          />
        </td>
        <td className="whitespace-nowrap py-1.5 text-right">
          <button type="button" className="act text-xs" aria-expanded={open} onClick={toggle}>
            {open ? "less" : "more"}
            <span className="sr-only"> of {engine.name}</span>
          </button>
          <button
            type="button"
            className="act ml-2 text-xs"
            onClick={() => void edit(`${engine.name} is gone`, [{ op: "remove", path: `/engines/${id}` }])}
          >
            ✕<span className="sr-only"> take {engine.name} away</span>
          </button>
        </td>
      </tr>
      {open ? (
        <tr className="border-line border-b">
          <td colSpan={9} className="pb-2">
            <Settings path={`/engines/${id}`} name={engine.name} settings={engine.settings ?? ""} />
            <div className="mt-1 grid grid-cols-2 gap-2">
              <Typed
                label="On DC, in a braking section, after a short it"
                kind="text"
                shown={engine.reacts ?? ""}
                placeholder="runs on at half speed"
                clearable
                onTake={(v) => put("reacts", v ?? "", v ? `it ${v}` : "nothing said")}
              />
              <Typed
                label="Troubles"
                kind="text"
                shown={engine.troubles ?? ""}
                placeholder="loses its sound on frogs"
                clearable
                onTake={(v) => put("troubles", v ?? "", v ? String(v) : "no troubles")}
              />
            </div>
          </td>
        </tr>
      ) : null}
    </>
  );
}
