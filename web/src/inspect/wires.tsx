import type { Layout } from "../api/client";
import { useAnswers, useGauges } from "../api/queries";
import { bound } from "../parts/bound";
import { Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { useSet } from "./card";

export function useGaugeOptions(layout: Layout) {
  const { data } = useGauges();
  return layout.brief?.units === "metric" ? data?.metric : data?.imperial;
}

export function Carries({ wire }: { wire: string }) {
  const { data } = useAnswers();
  const load = data?.loads[wire];
  if (!load) return <p className="mt-2 text-oxide text-xs">No way to a source: it carries nothing.</p>;
  return (
    <p className="mt-2 text-xs">
      Up to <b className="figure">{bound(load.scene_text)}</b> in this scene,{" "}
      <b className="figure">{bound(load.held_text)}</b> in a short that just does not trip,{" "}
      <span className={load.share > 1 ? "font-semibold text-oxide" : "text-mute"}>
        {(load.share * 100).toFixed(0)} % of what it may carry
      </span>
      .
    </p>
  );
}

export function circuitOf(layout: Layout, terminal: string) {
  const run = layout.runs?.[layout.terminals?.[terminal]?.run ?? ""];
  return run ? layout.circuits?.[run.circuit] : undefined;
}

/** What was cut already: shorter than the way with its slack is a finding. */
export function CutTo({
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
export function OwnOhms({ path, what, ohms }: { path: string; what: string; ohms: number | null | undefined }) {
  const set = useSet(path, what);
  return (
    <Typed
      label="Its own ohms, a metre of one wire"
      kind="ohms"
      at={`${path}/ohms_per_metre`}
      shown={ohms ? `${+(ohms * 1000).toFixed(2)} mΩ` : ""}
      placeholder="as its gauge"
      clearable
      onTake={(v, t) => set("ohms_per_metre", v, t ? `${t} in a metre` : "ohms as its gauge")}
    />
  );
}
