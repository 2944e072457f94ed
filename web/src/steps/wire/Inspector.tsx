import type { Layout } from "../../api/client";
import { useAnswers } from "../../api/queries";
import { CODES, JOINERS, METALS, USES } from "../../parts/choices";
import { Choice, Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Here } from "../track/ByNumbers";
import { type CardProps, Head, useSet } from "./card";
import { Device, Load } from "./InspectorDevice";
import { Board, Gap, Node, Obstacle, Section } from "./InspectorPlan";
import { Detector, Driver, Signal } from "./InspectorSignal";
import { Feeder, Plug, Run, Terminal } from "./InspectorWire";
import { MeasuredParts } from "./MeasuredParts";

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
    plug: Plug,
    signal: Signal,
    detector: Detector,
    driver: Driver,
  }[selected.kind];
  if (!exists(layout, selected.kind, selected.id)) return null;
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

const RUNS: Record<string, string> = { both: "both ways", forward: "from A to B", backward: "from B to A" };

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
        <Choice
          label="Trains run"
          value={RUNS[track.runs ?? "both"] as string}
          options={Object.values(RUNS)}
          onChange={(v) => void set("runs", Object.entries(RUNS).find(([, w]) => w === v)?.[0], `trains run ${v}`)}
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
      <MeasuredParts layout={layout} name={track.name} kinds={["joiner"]} track={id} />
      <Here track={id} />
    </>
  );
}
