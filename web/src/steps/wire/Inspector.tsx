import type { Layout } from "../../api/client";
import { useAnswers, useGauges } from "../../api/queries";
import { CODES, JOINERS, METALS, USES } from "../../parts/choices";
import { Swatch } from "../../parts/Swatch";
import { Choice, Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Here } from "../track/ByNumbers";
import { type CardProps, Head, useSet } from "./card";
import { Device, Load } from "./InspectorDevice";
import { Board, Gap, Node, Obstacle, Section } from "./InspectorPlan";

const MAKES = ["side by side", "paired cable", "twisted", "apart"] as const;
const STRANDS = ["stranded", "solid"] as const;
const TERMINALS = ["screw strip", "lever", "tap", "soldered"] as const;

/** The thing selected on the plan, with what can be changed about it here. */
export function Inspector() {
  const selected = useBench((s) => s.selected);
  const layout = useLayout((s) => s.state?.document);
  if (!selected || !layout) return null;
  const card = {
    run: Run,
    feeder: Feeder,
    track: Track,
    device: Device,
    terminal: Terminal,
    gap: Gap,
    board: Board,
    obstacle: Obstacle,
    node: Node,
    section: Section,
    load: Load,
    plug: null,
  }[selected.kind];
  if (!card || !exists(layout, selected.kind, selected.id)) return null;
  const Card = card;
  return (
    <div className="max-h-[52%] shrink-0 overflow-y-auto border-line border-b bg-paper p-3" data-testid="inspector">
      <Card id={selected.id} layout={layout} />
    </div>
  );
}

function exists(layout: Layout, kind: string, id: string) {
  const map = layout[`${kind}s` as keyof Layout] as Record<string, unknown> | undefined;
  return map?.[id] !== undefined;
}

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

function Run({ id, layout }: CardProps) {
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
      </div>
      <Carries wire={`run:${id}`} />
    </>
  );
}

function Feeder({ id, layout }: CardProps) {
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
      </div>
      <Carries wire={`feeder:${id}`} />
    </>
  );
}

function circuitOf(layout: Layout, terminal: string) {
  const run = layout.runs?.[layout.terminals?.[terminal]?.run ?? ""];
  return run ? layout.circuits?.[run.circuit] : undefined;
}

function Track({ id, layout }: CardProps) {
  const track = layout.tracks?.[id];
  const { data } = useAnswers();
  const set = useSet(`/tracks/${id}`, track?.name ?? id);
  if (!track) return null;
  const length = data?.tracks[id]?.length_text ?? "";
  const every = track.joiner_every ?? null;
  const metric = layout.brief?.units === "metric";
  return (
    <>
      <Head title={track.name}>
        {track.use} · {length}
        {data?.tracks[id]?.radius_text ? (
          <span className={data.tracks[id]?.tight ? "font-semibold text-oxide" : ""}>
            {" "}
            · radius {data.tracks[id]?.radius_text}
            {data.tracks[id]?.tight ? ", tight for the scale" : ""}
          </span>
        ) : null}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={track.name} onTake={(v) => set("name", v, String(v))} />
        <Choice label="Use" value={track.use ?? "main"} options={USES} onChange={(v) => void set("use", v, v)} />
        <Typed
          label="Rail code"
          kind="text"
          shown={String(track.code ?? 83)}
          options={CODES}
          onTake={(v) => set("code", Number.isInteger(Number(v)) ? Number(v) : v, `code ${v}`)}
        />
        <Choice
          label="Metal"
          value={track.metal ?? "nickel silver"}
          options={METALS}
          onChange={(v) => void set("metal", v, v)}
        />
        <Choice
          label="Joiners"
          value={track.joiners ?? "usual"}
          options={JOINERS}
          onChange={(v) => void set("joiners", v, `${v} joiners`)}
        />
        <Typed
          label="A joiner every"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={every === null ? "" : metric ? `${every.toFixed(0)} mm` : `${+(every / 25.4).toFixed(2)} in`}
          placeholder="none"
          clearable
          onTake={(v, t) => set("joiner_every", v, t ? `joiner every ${t}` : "no joiners")}
        />
        <Typed
          label="Length by tape"
          kind="length"
          shown={track.tape ? length : ""}
          placeholder={`${length} drawn`}
          clearable
          onTake={(v, t) => set("tape", v, t || "as drawn")}
        />
        <Typed
          label="Measured, one rail, per m"
          kind="ohms"
          shown={track.ohms_per_metre ? `${+(track.ohms_per_metre * 1000).toFixed(1)} mΩ` : ""}
          placeholder="by code, ±40 %"
          clearable
          onTake={(v, t) => set("ohms_per_metre", v, t || "by code")}
        />
      </div>
      <Here track={id} />
    </>
  );
}

function Terminal({ id, layout }: CardProps) {
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
        <Typed
          label="Measured, per contact"
          kind="ohms"
          shown={terminal.ohms ? `${+(terminal.ohms * 1000).toFixed(2)} mΩ` : ""}
          placeholder="usual"
          clearable
          onTake={(v, t) => set("ohms", v, t || "usual")}
        />
      </div>
    </>
  );
}
