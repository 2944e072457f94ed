import { useState } from "react";
import type { Shape } from "../../api/client";
import { useHouseRules, useLayouts } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Swatch } from "../../parts/Swatch";
import { TakeIn } from "../../parts/TakeIn";
import { Choice, Typed } from "../../parts/Typed";
import { fieldLength, lengthText } from "../../parts/units";
import { NewLayout } from "../../shell/NewLayout";
import { useLayout } from "../../store/layout";
import { Choosing } from "./Choosing";

const SCALES = ["Z", "N", "TT", "HO", "OO", "S", "O", "G"] as const;
const CONTROLS = { dcc: "digital", dc: "DC", ac3: "three-rail AC" } as const;
const CONTROL_NAMES = ["digital", "DC", "three-rail AC"] as const;

/** What was settled first: the railroad, its colours, and the house rules every check goes by. */
export function BriefStep() {
  const state = useLayout((s) => s.state);
  const { edit } = useLayout();
  const [choosing, setChoosing] = useState(false);
  if (!state) return null;
  const d = state.document;
  const brief = d.brief ?? {};
  const set = (path: string, value: unknown, words: string) => edit(words, [{ op: "replace", path, value }], true);
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto grid max-w-[1180px] gap-5 p-5 lg:grid-cols-[360px_minmax(0,1fr)]">
        <div className="flex flex-col gap-4">
          <section className="rounded-xl border border-line bg-card p-4">
            <h2 className="mb-2 font-bold text-sm">The railroad</h2>
            <div className="grid grid-cols-2 gap-2.5">
              <div className="col-span-2">
                <Typed label="Name" kind="text" shown={d.name} onTake={(v) => set("/name", v, `Name: ${v}`)} />
              </div>
              <div className="col-span-2">
                <Typed label="Club" kind="text" shown={d.club ?? ""} onTake={(v) => set("/club", v, `Club: ${v}`)} />
              </div>
              <Choice
                label="Scale"
                value={brief.scale ?? "HO"}
                options={SCALES}
                onChange={(v) => void set("/brief/scale", v, `Scale ${v}`)}
              />
              <Choice
                label="Control"
                value={CONTROLS[brief.control ?? "dcc"]}
                options={CONTROL_NAMES}
                onChange={(v) =>
                  void set("/brief/control", Object.entries(CONTROLS).find(([, n]) => n === v)?.[0], `Control: ${v}`)
                }
              />
              <button type="button" className="act col-span-2 text-left text-xs" onClick={() => setChoosing(true)}>
                Not chosen yet? Weigh the controls on this plan…
              </button>
              {choosing ? <Choosing onClose={() => setChoosing(false)} /> : null}
              <Typed
                label="Track volts"
                kind="volts"
                shown={`${brief.track_volts ?? 14.4} V`}
                onTake={(v, t) => set("/brief/track_volts", v, `Track at ${t}`)}
                hint="No load, at the source"
              />
              <Typed
                label="Wiring lead"
                kind="text"
                shown={brief.lead ?? ""}
                clearable
                onTake={(v) => set("/brief/lead", v, `Lead: ${v ?? "nobody"}`)}
              />
            </div>
          </section>
          <Colours />
          <Files />
        </div>
        <Rules />
      </div>
    </div>
  );
}

function Colours() {
  const circuits = useLayout((s) => s.state?.document.circuits) ?? {};
  const aid = useLayout((s) => s.state?.document.brief?.memory_aid);
  const edit = useLayout((s) => s.edit);
  return (
    <section className="rounded-xl border border-line bg-card p-4">
      <h2 className="font-bold text-sm">Colour code</h2>
      <p className="mb-2 text-mute text-xs">Same rail, same colour, everywhere. Write a stripe as blue/white.</p>
      <div className="grid gap-1.5">
        {Object.entries(circuits).map(([id, c]) => (
          <div key={id} className="grid grid-cols-[minmax(0,1fr)_30px_92px_92px] items-center gap-1.5 text-xs">
            <span className="truncate">{c.name}</span>
            <Swatch a={c.colour_a ?? "red"} b={c.colour_b ?? "black"} words={false} />
            {(["colour_a", "colour_b"] as const).map((field) => (
              <Typed
                key={field}
                label={`${c.name}, conductor ${field.at(-1)?.toUpperCase()}`}
                hideLabel
                kind="text"
                shown={c[field] ?? ""}
                onTake={(v) =>
                  edit(`${c.name}: ${v}`, [{ op: "replace", path: `/circuits/${id}/${field}`, value: v }], true)
                }
              />
            ))}
          </div>
        ))}
      </div>
      <div className="mt-3">
        <Typed
          label="Memory aid, printed on every board's page"
          kind="text"
          shown={aid ?? ""}
          placeholder="Red runs right"
          clearable
          onTake={(v) => edit("Memory aid", [{ op: "add", path: "/brief/memory_aid", value: v ?? "" }], true)}
        />
      </div>
    </section>
  );
}

function Files() {
  const { data } = useLayouts();
  const { state, open } = useLayout();
  return (
    <section className="rounded-xl border border-line bg-card p-4">
      <h2 className="mb-2 font-bold text-sm">Layouts in this club file</h2>
      <ul className="mb-3 grid gap-1 text-xs">
        {data?.map((l) => (
          <li key={l.id} className="flex items-baseline justify-between gap-3">
            <button
              type="button"
              className="act text-left"
              disabled={l.id === state?.id}
              onClick={() => void open(l.id)}
            >
              {l.name}
            </button>
            <span className="text-mute">
              {l.id === state?.id ? `open, change ${l.revision}` : `change ${l.revision}`}
            </span>
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2">
        <NewLayout />
        <TakeIn />
        <a className="btn" href={`/api/layouts/${state?.id}/files/layout.json`} download>
          Layout file
        </a>
        <a className="btn" href={`/api/layouts/${state?.id}/files/netlist.cir`} download>
          Netlist
        </a>
      </div>
    </section>
  );
}

type Rule = Shape["RuleRow"];
/** How a rule's own unit is shown and read back: [suffix, factor from the document's unit]. */
function shownAs(rule: Rule, metric: boolean): [string, number] {
  if (rule.unit.startsWith("share")) return ["%", 100];
  if (rule.unit === "mm") return metric ? ["mm", 1] : ["in", 1 / 25.4];
  if (rule.unit === "s") return ["µs", 1e6];
  return ["", 1];
}

const FOOT_MM = 304.8;
/** A length of a rule as one says it: 8 ft, not 96 in; small ones to the hundredth of an inch. */
const said = (mm: number, metric: boolean) =>
  metric || mm >= FOOT_MM ? lengthText(mm, metric) : fieldLength(mm, metric);

function Rules() {
  const { data } = useHouseRules();
  const brief = useLayout((s) => s.state?.document.brief);
  const edit = useLayout((s) => s.edit);
  const values = (brief?.rules ?? {}) as Record<string, number | boolean>;
  const metric = brief?.units === "metric";
  // What this club changed stands on top.
  const own = (rule: Rule) => (values[rule.key] ?? rule.default) !== rule.default;
  const inOrder = [...(data?.filter(own) ?? []), ...(data?.filter((rule) => !own(rule)) ?? [])];
  return (
    <section className="rounded-xl border border-line bg-card p-4">
      <h2 className="font-bold text-sm">House rules</h2>
      <p className="mb-2 text-mute text-xs">
        Every threshold the checks go by. Schools differ; these are yours to set, and a changed one is marked.
      </p>
      <div className="grid">
        {inOrder.map((rule) => {
          const value = values[rule.key] ?? rule.default;
          const [suffix, factor] = shownAs(rule, metric);
          const path = `/brief/rules/${rule.key}`;
          const length = rule.unit === "mm" && typeof value === "number";
          const text = length
            ? said(value, metric)
            : typeof value === "number"
              ? `${+(value * factor).toFixed(2)}`
              : "";
          return (
            <div key={rule.key} className="grid grid-cols-[minmax(0,1fr)_150px] gap-4 border-line border-t py-2">
              <div>
                <h3 className="font-semibold text-[12.5px]">
                  {bound(rule.title)}
                  {value !== rule.default ? (
                    <span className="ml-2 rounded bg-board px-1.5 font-normal text-[11px]">yours</span>
                  ) : null}
                </h3>
                <p className="text-mute text-xs">{bound(rule.reason)}</p>
                <p className="text-[11px] text-mute">
                  Schools: {rule.schools}. Source: {rule.source}.
                </p>
              </div>
              {typeof value === "boolean" ? (
                <label className="flex items-start gap-2 text-xs">
                  <input
                    type="checkbox"
                    aria-label={rule.title}
                    className="mt-0.5 size-4 accent-[var(--copper)]"
                    checked={value}
                    onChange={(event) =>
                      void edit(`${rule.title}: ${event.target.checked ? "yes" : "no"}`, [
                        { op: "replace", path, value: event.target.checked },
                      ])
                    }
                  />
                  {value ? "yes" : "no"}
                </label>
              ) : (
                <div>
                  <div className="flex items-center gap-1.5">
                    <Typed
                      label={rule.title}
                      hideLabel
                      kind={rule.unit === "mm" ? "length" : "text"}
                      bare={metric ? "mm" : "in"}
                      shown={text}
                      onTake={async (typed) => {
                        const number =
                          typeof typed === "number"
                            ? typed / (rule.unit === "mm" ? 1 : factor)
                            : Number(String(typed).replace(",", ".").replace("%", "")) / factor;
                        if (!Number.isFinite(number)) return "This must be a number.";
                        return edit(`House rule: ${rule.title}`, [{ op: "replace", path, value: number }], true);
                      }}
                    />
                    {length ? null : <span className="text-mute text-xs">{suffix}</span>}
                  </div>
                  {suffix ? null : <p className="text-[11px] text-mute">{rule.unit}</p>}
                </div>
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}
