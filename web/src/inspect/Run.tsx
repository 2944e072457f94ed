import { useAnswers } from "../api/queries";
import { Swatch } from "../parts/Swatch";
import { Choice, Typed } from "../parts/Typed";
import { type CardProps, Head, Remove, useSet } from "./card";
import { RingOffer } from "./RingOffer";
import { Carries, CutTo, OwnOhms, useGaugeOptions } from "./wires";

const MAKES = ["side by side", "paired cable", "twisted", "apart"] as const;

const LIES = ["below", "on top"] as const;

const STRANDS = ["stranded", "solid"] as const;

export function Run({ id, layout }: CardProps) {
  const run = layout.runs?.[id];
  const { data } = useAnswers();
  const options = useGaugeOptions(layout);
  const set = useSet(`/runs/${id}`, `Bus ${run?.label}`);
  if (!run) return null;
  const circuit = layout.circuits?.[run.circuit];
  return (
    <>
      <Head title={`Bus ${run.label}`}>
        {circuit?.name} · {circuit ? <Swatch a={circuit.colour_a ?? "red"} b={circuit.colour_b ?? "black"} /> : null}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed
          label="Gauge"
          kind="gauge"
          at={`/runs/${id}/gauge`}
          shown={run.gauge}
          options={options}
          onTake={(v) => set("gauge", v, String(v))}
        />
        <Choice
          label="Strands"
          value={run.strands ?? "stranded"}
          options={STRANDS}
          onChange={(v) => void set("strands", v, v)}
        />
        <Choice
          label="The two wires lie"
          value={run.make ?? "side by side"}
          options={MAKES}
          onChange={(v) => void set("make", v, v)}
        />
        <Choice
          label="It runs"
          value={run.lies ?? "below"}
          options={LIES}
          says={{ below: "below the board", "on top": "on top of it" }}
          onChange={(v) => void set("lies", v, v === "below" ? "below the board" : "on top of the board")}
        />
        <Typed
          label="Length by tape"
          kind="length"
          at={`/runs/${id}/tape`}
          shown={run.tape ? (data?.runs[id]?.length_text ?? "") : ""}
          placeholder={`${data?.runs[id]?.length_text ?? ""} drawn`}
          clearable
          onTake={(v, t) => set("tape", v, t || "as drawn")}
        />
        <Typed label="Label" kind="text" shown={run.label} onTake={(v) => set("label", v, `labelled ${v}`)} />
        <OwnOhms path={`/runs/${id}`} what={`Bus ${run.label}`} ohms={run.ohms_per_metre} />
        <CutTo path={`/runs/${id}`} what={`Bus ${run.label}`} cut={run.cut} metric={layout.brief?.units === "metric"} />
      </div>
      <Carries wire={`run:${id}`} />
      {run.ends_at_device || run.ends_at_terminal || run.wires !== "both" ? null : <RingOffer key={id} run={id} />}
      <div className="mt-1.5">
        <Remove kind="run" id={id} words="Take this bus away" />
      </div>
    </>
  );
}
