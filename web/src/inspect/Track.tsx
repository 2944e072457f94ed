import { useAnswers } from "../api/queries";
import { CODES, JOINERS, METALS, USES } from "../parts/choices";
import { Choice, Typed } from "../parts/Typed";
import { fieldLength } from "../parts/units";
import { Here } from "../steps/track/ByNumbers";
import { type CardProps, Head, useSet } from "./card";
import { MeasuredParts } from "./MeasuredParts";
import { hasThreeRails } from "./rails";

const RUNS: Record<string, string> = { both: "both ways", forward: "from A to B", backward: "from B to A" };

/** A track: what it is made of, how long it is, which way trains run. */
export function Track({ id, layout }: CardProps) {
  const track = layout.tracks?.[id];
  const { data } = useAnswers();
  const set = useSet(`/tracks/${id}`, track?.name ?? id);
  if (!track) return null;
  const length = data?.tracks[id]?.length_text ?? "";
  const three = hasThreeRails(layout, id);
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
        <Choice
          label="Rails"
          value={three ? "three" : "two"}
          options={["two", "three"] as const}
          onChange={(v) => void set("rails", v === "three" ? 3 : 2, `${v} rails`)}
        />
        {three ? (
          <Choice
            label="Its outers are"
            value={track.outers ?? "joined"}
            options={["joined", "apart"] as const}
            onChange={(v) => void set("outers", v, `outers ${v}`)}
          />
        ) : null}
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
          at={`/tracks/${id}/joiner_every`}
          bare={metric ? "mm" : "in"}
          shown={every === null ? "" : fieldLength(every, metric)}
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
          at={`/tracks/${id}/tape`}
          shown={track.tape ? length : ""}
          placeholder={`${length} drawn`}
          clearable
          onTake={(v, t) => set("tape", v, t || "as drawn")}
        />
        <Typed
          label="Measured, one rail, per m"
          kind="ohms"
          at={`/tracks/${id}/ohms_per_metre`}
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
