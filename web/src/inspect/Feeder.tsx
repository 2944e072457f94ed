import { useAnswers } from "../api/queries";
import { Choice, Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { type CardProps, Head, Remove, useSet } from "./card";
import { MeasuredParts } from "./MeasuredParts";
import { Carries, CutTo, circuitOf, OwnOhms, useGaugeOptions } from "./wires";

const STRANDS = ["stranded", "solid"] as const;

export function Feeder({ id, layout }: CardProps) {
  const feeder = layout.feeders?.[id];
  const { data } = useAnswers();
  const options = useGaugeOptions(layout);
  const set = useSet(`/feeders/${id}`, `Feeder ${feeder?.label}`);
  if (!feeder) return null;
  const length = data?.feeders[id]?.length_text ?? "";
  return (
    <>
      <Head title={`Feeder ${feeder.label}`}>
        {layout.tracks?.[feeder.track]?.name} to terminal {feeder.terminal}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed
          label="Gauge"
          kind="gauge"
          at={`/feeders/${id}/gauge`}
          shown={feeder.gauge ?? "20 AWG"}
          options={options}
          onTake={(v) => set("gauge", v, String(v))}
        />
        <Choice
          label="Strands"
          value={feeder.strands ?? "solid"}
          options={STRANDS}
          onChange={(v) => void set("strands", v, v)}
        />
        <Typed
          label="To terminal"
          kind="text"
          shown={feeder.terminal}
          options={Object.keys(layout.terminals ?? {})}
          onTake={(v, t) => set("terminal", v, `to ${t}`)}
        />
        <Typed
          label="Length by tape"
          kind="length"
          at={`/feeders/${id}/tape`}
          bare={layout.brief?.units === "metric" ? "mm" : "in"}
          shown={feeder.tape ? length : ""}
          placeholder={`${length} drawn`}
          clearable
          onTake={(v, t) => set("tape", v, t || "as drawn")}
        />
        <Choice
          label={`Conductor A (${circuitOf(layout, feeder.terminal)?.colour_a ?? "A"}) to`}
          value={feeder.a_rail ?? "left"}
          options={["left", "right"] as const}
          onChange={(v) => void set("a_rail", v, `A to the ${v} rail`)}
        />
        <Typed label="Label" kind="text" shown={feeder.label} onTake={(v) => set("label", v, `labelled ${v}`)} />
        <CutTo
          path={`/feeders/${id}`}
          what={`Feeder ${feeder.label}`}
          cut={feeder.cut}
          metric={layout.brief?.units === "metric"}
        />
      </div>
      <details className="mt-2 text-xs" open={Boolean(feeder.gauge_b || feeder.tape_b || feeder.ohms_per_metre)}>
        <summary className="cursor-pointer text-mute">Wire B differs, or ohms of its own</summary>
        <div className="mt-1 grid grid-cols-2 gap-2">
          <Typed
            label="Wire B, size"
            kind="gauge"
            shown={feeder.gauge_b ?? ""}
            placeholder={feeder.gauge ?? "20 AWG"}
            options={options}
            clearable
            onTake={(v, t) => set("gauge_b", v, t ? `wire B of ${t}` : "wire B alike")}
          />
          <Typed
            label="Wire B, by tape"
            kind="length"
            bare={layout.brief?.units === "metric" ? "mm" : "in"}
            shown={feeder.tape_b ? lengthText(feeder.tape_b, layout.brief?.units === "metric") : ""}
            placeholder="as the other"
            clearable
            onTake={(v, t) => set("tape_b", v, t ? `wire B ${t}` : "wire B alike")}
          />
          <OwnOhms path={`/feeders/${id}`} what={`Feeder ${feeder.label}`} ohms={feeder.ohms_per_metre} />
        </div>
      </details>
      <label className="mt-2 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={feeder.temporary ?? false}
          onChange={(e) => void set("temporary", e.target.checked, e.target.checked ? "for the time being" : "done")}
        />
        Tied for the time being: remind us
      </label>
      <label className="mt-1 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={feeder.capacitor ?? false}
          onChange={(e) =>
            void set(
              "capacitor",
              e.target.checked,
              e.target.checked ? "a clip with a capacitor" : "without a capacitor",
            )
          }
        />
        A power clip or connection track with a suppression capacitor
      </label>
      <Carries wire={`feeder:${id}`} />
      <MeasuredParts layout={layout} name={`Feeder ${feeder.label}`} kinds={["wire", "contact"]} of={id} />
      <div className="mt-1.5">
        <Remove kind="feeder" id={id} words="Take this feeder away" />
      </div>
    </>
  );
}
