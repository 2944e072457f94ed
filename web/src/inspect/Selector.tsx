import { useState } from "react";
import { Choice, Typed } from "../parts/Typed";
import { throwTo } from "../steps/cabs/queries";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { type CardProps, Head, Remove, useSet } from "./card";

const MADE = ["toggle, two poles", "toggle, one pole", "rotary, two poles", "rotary, one pole"] as const;
const OFF = "off";
const NO_PANEL = "no panel";

/** A selector: how it lies, what it chooses from, how it is made and where it stands. */
export function Selector({ id, layout }: CardProps) {
  const device = layout.devices?.[id];
  const set = useSet(`/devices/${id}`, device?.name ?? id);
  const edit = useLayout((s) => s.edit);
  const note = useBench((s) => s.note);
  const [wrong, setWrong] = useState<string | null>(null);
  if (!device) return null;
  const circuits = layout.circuits ?? {};
  const inputs = device.inputs ?? [];
  const others = Object.entries(circuits).filter(
    ([c, v]) => v.purpose !== "accessory" && !inputs.includes(c) && c !== device.output,
  );
  const lever = device.gang ? layout.devices?.[device.gang] : undefined;
  const ways = (next: string[], words: string) =>
    void edit(`${device.name}: ${words}`, [
      { op: "replace", path: `/devices/${id}/inputs`, value: next },
      ...(device.input && !next.includes(device.input)
        ? [{ op: "replace" as const, path: `/devices/${id}/input`, value: null }]
        : []),
      ...(next.length > 2 && device.made?.startsWith("toggle")
        ? [{ op: "replace" as const, path: `/devices/${id}/made`, value: device.made.replace("toggle", "rotary") }]
        : []),
    ]).then((why) => setWrong(typeof why === "string" ? why : null));
  const panels = Object.entries(layout.panels ?? {});
  return (
    <>
      <Head title={device.name}>
        selector · gives {circuits[device.output]?.name}
        {lever ? ` · on the lever of ${lever.name}` : ""}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={device.name} onTake={(v) => set("name", v, String(v))} />
        {lever ? null : (
          <Choice
            label="Lies"
            value={circuits[device.input ?? ""]?.name ?? OFF}
            options={[OFF, ...inputs.map((c) => circuits[c]?.name ?? c)]}
            onChange={(name) => void throwTo(id, inputs.find((c) => circuits[c]?.name === name) ?? null)}
          />
        )}
        <Choice
          label="Made as"
          value={device.made ?? MADE[0]}
          options={MADE}
          onChange={(v) => void set("made", v, v)}
        />
        <Typed
          label="Its contacts switch"
          kind="current"
          shown={device.contact_amps ? `${device.contact_amps} A` : ""}
          placeholder="not known"
          clearable
          onTake={(v, t) => set("contact_amps", v, `contacts for ${t || "unknown amps"}`)}
        />
        <Choice
          label="Stands on"
          value={layout.panels?.[device.panel ?? ""]?.name ?? NO_PANEL}
          options={[NO_PANEL, ...panels.map(([, p]) => p.name)]}
          onChange={(name) => void set("panel", panels.find(([, p]) => p.name === name)?.[0] ?? null, `on ${name}`)}
        />
      </div>
      <div className="mt-2 text-xs">
        <span className="text-mute">Chooses from </span>
        {inputs.map((c) => (
          <span
            key={c}
            className="mr-1.5 inline-flex items-center gap-1 rounded-full border border-line bg-card px-1.5"
          >
            {circuits[c]?.name}
            {lever || inputs.length === 1 ? null : (
              <button
                type="button"
                aria-label={`No longer from ${circuits[c]?.name}`}
                onClick={() =>
                  ways(
                    inputs.filter((i) => i !== c),
                    `not from ${circuits[c]?.name}`,
                  )
                }
              >
                ×
              </button>
            )}
          </span>
        ))}
        {lever || !others.length ? null : (
          <select
            aria-label="One more way"
            className="field w-auto"
            value=""
            onChange={(e) => e.target.value && ways([...inputs, e.target.value], "one more way")}
          >
            <option value="">one more…</option>
            {others.map(([c, v]) => (
              <option key={c} value={c}>
                {v.name}
              </option>
            ))}
          </select>
        )}
      </div>
      {wrong || note ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong ?? note}
        </p>
      ) : null}
      <div className="mt-2 text-xs">
        <Remove kind="device" id={id} words="Take this selector away" />
      </div>
    </>
  );
}
