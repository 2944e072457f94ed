import type { Layout } from "../../api/client";
import { useAnswers, useGauges } from "../../api/queries";
import { Swatch } from "../../parts/Swatch";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { type CardProps, Head, Remove, useSet } from "./card";
import { MeasuredParts } from "./MeasuredParts";

const MAKES = ["side by side", "paired cable", "twisted", "apart"] as const;
const STRANDS = ["stranded", "solid"] as const;
const HUBS = ["halved strip", "two strips", "distribution board"] as const;
const TERMINALS = ["screw strip", "lever", "tap", "soldered"] as const;

function useGaugeOptions(layout: Layout) {
  const { data } = useGauges();
  return layout.brief?.units === "metric" ? data?.metric : data?.imperial;
}

function Carries({ wire }: { wire: string }) {
  const { data } = useAnswers();
  const load = data?.loads[wire];
  if (!load) return <p className="mt-2 text-oxide text-xs">No way to a source: it carries nothing.</p>;
  return (
    <p className="mt-2 text-xs">
      Up to <b className="figure">{load.scene_text}</b> in this scene, <b className="figure">{load.held_text}</b> in a
      short that just does not trip,{" "}
      <span className={load.share > 1 ? "font-semibold text-oxide" : "text-mute"}>
        {(load.share * 100).toFixed(0)} % of what it may carry
      </span>
      .
    </p>
  );
}

function circuitOf(layout: Layout, terminal: string) {
  const run = layout.runs?.[layout.terminals?.[terminal]?.run ?? ""];
  return run ? layout.circuits?.[run.circuit] : undefined;
}

/** What was cut already: shorter than the way with its slack is a finding. */
function CutTo({
  path,
  what,
  cut,
  metric,
}: {
  path: string;
  what: string;
  cut: number | null | undefined;
  metric: boolean;
}) {
  const set = useSet(path, what);
  return (
    <Typed
      label="Cut already, each wire to"
      kind="length"
      bare={metric ? "mm" : "in"}
      shown={cut ? lengthText(cut, metric) : ""}
      placeholder="not cut yet"
      clearable
      onTake={(v, t) => set("cut", v, t ? `cut to ${t}` : "not cut yet")}
    />
  );
}

/** What a metre of one conductor reads, where it is not what its gauge says. */
function OwnOhms({ path, what, ohms }: { path: string; what: string; ohms: number | null | undefined }) {
  const set = useSet(path, what);
  return (
    <Typed
      label="Its own ohms, a metre of one wire"
      kind="ohms"
      shown={ohms ? `${+(ohms * 1000).toFixed(2)} mΩ` : ""}
      placeholder="as its gauge"
      clearable
      onTake={(v, t) => set("ohms_per_metre", v, t ? `${t} in a metre` : "ohms as its gauge")}
    />
  );
}

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
        <Typed
          label="Length by tape"
          kind="length"
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
      <div className="mt-1.5">
        <Remove kind="run" id={id} words="Take this bus away" />
      </div>
    </>
  );
}

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
      <Carries wire={`feeder:${id}`} />
      <MeasuredParts layout={layout} name={`Feeder ${feeder.label}`} kinds={["wire", "contact"]} of={id} />
      <div className="mt-1.5">
        <Remove kind="feeder" id={id} words="Take this feeder away" />
      </div>
    </>
  );
}

export function Terminal({ id, layout }: CardProps) {
  const terminal = layout.terminals?.[id];
  const set = useSet(`/terminals/${id}`, `Terminal ${id}`);
  if (!terminal) return null;
  const feeders = Object.values(layout.feeders ?? {}).filter((f) => f.terminal === id);
  return (
    <>
      <Head title={`Terminal ${id}`}>
        on bus {layout.runs?.[terminal.run]?.label} ·{" "}
        {feeders.length ? feeders.map((f) => f.label).join(", ") : "no feeders"}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Kind"
          value={terminal.kind ?? "screw strip"}
          options={TERMINALS}
          onChange={(v) => void set("kind", v, v)}
        />
        {(terminal.kind ?? "screw strip") === "screw strip" ? (
          <Choice
            label="Built as"
            value={terminal.hub ?? "halved strip"}
            options={HUBS}
            onChange={(v) => void set("hub", v, `built as ${v}`)}
          />
        ) : null}
        <Typed
          label="Measured, per contact"
          kind="ohms"
          shown={terminal.ohms ? `${+(terminal.ohms * 1000).toFixed(2)} mΩ` : ""}
          placeholder="usual"
          clearable
          onTake={(v, t) => set("ohms", v, t || "usual")}
        />
        <Typed
          label="Pairs of wires it takes"
          kind="text"
          shown={terminal.pairs ? String(terminal.pairs) : ""}
          placeholder="as its kind does"
          clearable
          onTake={(v) =>
            v === null || /^[1-9]\d?$/.test(String(v))
              ? set(
                  "pairs",
                  v === null ? null : Number(v),
                  v === null ? "takes what its kind does" : `takes ${v} pairs`,
                )
              : Promise.resolve("A whole number from 1 to 99.")
          }
        />
      </div>
      <div className="mt-2">
        <MeasuredParts layout={layout} name={`Terminal ${id}`} kinds={["contact"]} of={id} />
        <Remove kind="terminal" id={id} words="Take it away" />
      </div>
    </>
  );
}

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
