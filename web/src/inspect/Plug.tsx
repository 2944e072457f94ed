import { Typed } from "../parts/Typed";
import { type CardProps, Head, Remove, useSet } from "./card";
import { MeasuredParts } from "./MeasuredParts";
import { useGaugeOptions } from "./wires";

/** A plug where a bus crosses a joint that comes apart. */
export function Plug({ id, layout }: CardProps) {
  const plug = layout.plugs?.[id];
  const options = useGaugeOptions(layout);
  const set = useSet(`/plugs/${id}`, `Plug ${id}`);
  if (!plug) return null;
  return (
    <>
      <Head title={`Plug ${id}`}>in bus {layout.runs?.[plug.run]?.label}: pin 1 wire A, pin 2 wire B</Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed
          label="Thickest wire it takes"
          kind="gauge"
          shown={plug.takes ?? ""}
          placeholder="the usual, 12 AWG"
          options={options}
          clearable
          onTake={(v, t) => set("takes", v, t ? `takes ${t}` : "takes the usual")}
        />
        <Typed
          label="Measured, per pole"
          kind="ohms"
          at={`/plugs/${id}/ohms`}
          shown={plug.ohms ? `${+(plug.ohms * 1000).toFixed(2)} mΩ` : ""}
          placeholder="usual"
          clearable
          onTake={(v, t) => set("ohms", v, t || "usual")}
        />
      </div>
      <div className="mt-2">
        <MeasuredParts layout={layout} name={`Plug ${id}`} kinds={["plug"]} of={id} />
        <Remove kind="plug" id={id} words="Take it out" />
      </div>
    </>
  );
}
