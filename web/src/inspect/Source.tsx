import { Choice, Typed } from "../parts/Typed";
import type { CardProps } from "./card";
import { useSet } from "./card";

const GIVES = { dcc: "digital", dc: "DC", ac3: "three-rail AC" } as const;
type Control = keyof typeof GIVES;

/** What a source gives, on which winding it hangs, and which way its knob stands. */
export function SourceControl({ id, layout }: CardProps) {
  const device = layout.devices?.[id];
  const set = useSet(`/devices/${id}`, device?.name ?? id);
  if (!device) return null;
  const own: Control =
    device.gives ??
    (device.kind === "cab" ? "dc" : device.kind === "transformer output" ? "ac3" : (layout.brief?.control ?? "dcc"));
  const either = device.kind === "booster" || device.kind === "station";
  return (
    <>
      {either ? (
        <Choice
          label="Gives"
          value={GIVES[own]}
          options={Object.values(GIVES)}
          onChange={(v) => void set("gives", Object.entries(GIVES).find(([, n]) => n === v)?.[0] ?? null, `gives ${v}`)}
        />
      ) : null}
      {own === "dcc" ? null : (
        <Typed
          label={own === "dc" ? "Supply winding" : "Its transformer"}
          kind="text"
          shown={device.winding ?? ""}
          placeholder="not said"
          clearable
          onTake={(v) => set("winding", v, v ? `on ${v}` : "winding not said")}
        />
      )}
      {own === "dc" ? (
        <Choice
          label="Direction knob"
          value={device.turned ? "to the left" : "to the right"}
          options={["to the right", "to the left"] as const}
          onChange={(v) => void set("turned", v === "to the left", `knob ${v}`)}
        />
      ) : null}
      {device.kind === "transformer output" ? (
        <Typed
          label="Hot to hot, read"
          kind="volts"
          shown={device.phasing_volts === null || device.phasing_volts === undefined ? "" : `${device.phasing_volts} V`}
          placeholder="not read"
          clearable
          hint="To the first transformer's hot post, both set alike, commons joined"
          onTake={(v, t) => set("phasing_volts", v, `phasing ${t || "not read"}`)}
        />
      ) : null}
    </>
  );
}
