import { Choice, Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { type CardProps, Head, Remove, useSet } from "./card";

const SIDES = ["left", "right"] as const;
const NONE = "nothing";

function useLengths(path: string, name: string, layout: CardProps["layout"]) {
  const set = useSet(path, name);
  const metric = layout.brief?.units === "metric";
  const field = (label: string, key: string, value: number) => (
    <Typed
      label={label}
      kind="length"
      bare={metric ? "mm" : "in"}
      shown={lengthText(value, metric)}
      onTake={(v, t) => set(key, v, `${label.toLowerCase()} ${t}`)}
    />
  );
  return { set, field };
}

/** A braking section: where, in which rail, by which module, and what lets the train go. */
export function Braking({ id, layout }: CardProps) {
  const b = layout.braking?.[id];
  const { set, field } = useLengths(`/braking/${id}`, b?.name ?? id, layout);
  if (!b) return null;
  const signals = Object.entries(layout.signals ?? {});
  return (
    <>
      <Head title={b.name}>braking section · {layout.tracks?.[b.track]?.name}</Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={b.name} onTake={(v) => set("name", v, String(v))} />
        <Choice label="Rail cut" value={b.rail} options={SIDES} onChange={(v) => void set("rail", v, `${v} rail`)} />
        {field("Begins at", "at", b.at)}
        {field("Length", "length", b.length)}
        <Typed label="Module" kind="text" shown={b.module} onTake={(v) => set("module", v, String(v))} />
        <Typed
          label="Diodes take"
          kind="volts"
          shown={`${b.drop ?? 2.8} V`}
          onTake={(v, t) => set("drop", v, `diodes take ${t}`)}
        />
        <Typed
          label="Its input is called"
          kind="text"
          shown={b.terminal_in ?? ""}
          placeholder="as on the module"
          onTake={(v) => set("terminal_in", v ?? "", `input ${v ?? ""}`)}
        />
        <Typed
          label="Its output is called"
          kind="text"
          shown={b.terminal_out ?? ""}
          placeholder="as on the module"
          onTake={(v) => set("terminal_out", v ?? "", `output ${v ?? ""}`)}
        />
        <Choice
          label="Lifted by"
          value={layout.signals?.[b.held_by ?? ""]?.name ?? NONE}
          options={[NONE, ...signals.map(([, s]) => s.name)]}
          onChange={(name) =>
            void set("held_by", signals.find(([, s]) => s.name === name)?.[0] ?? null, `lifted by ${name}`)
          }
        />
      </div>
      <div className="mt-2 text-xs">
        <Remove kind="braking" id={id} words="Take this stop away" />
      </div>
    </>
  );
}

/** An isolated outer rail: where, and what wheels work there. */
export function Isolated({ id, layout }: CardProps) {
  const r = layout.isolated?.[id];
  const { set, field } = useLengths(`/isolated/${id}`, r?.name ?? id, layout);
  if (!r) return null;
  return (
    <>
      <Head title={r.name}>isolated rail · {layout.tracks?.[r.track]?.name}</Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={r.name} onTake={(v) => set("name", v, String(v))} />
        <Choice
          label="Outer cut"
          value={r.outer}
          options={SIDES}
          onChange={(v) => void set("outer", v, `${v} outer`)}
        />
        {field("Begins at", "at", r.at)}
        {field("Length", "length", r.length)}
        <Typed label="Works" kind="text" shown={r.works} onTake={(v) => set("works", v, String(v))} />
        <Typed
          label="Which draws"
          kind="current"
          shown={`${r.amps ?? 0.5} A`}
          onTake={(v, t) => set("amps", v, `draws ${t}`)}
        />
      </div>
      <div className="mt-2 text-xs">
        <Remove kind="isolated" id={id} words="Take this isolated rail away" />
      </div>
    </>
  );
}
