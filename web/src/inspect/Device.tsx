import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useWhere } from "../api/queries";
import { Preview } from "../findings/Preview";
import { bound } from "../parts/bound";
import { Choice, Typed } from "../parts/Typed";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { type CardProps, Head, useSet } from "./card";
import { Selector } from "./Selector";
import { Settings } from "./Settings";
import { SourceControl } from "./Source";

const SOURCE_KINDS: string[] = ["booster", "station", "cab", "transformer output"];

type Figure =
  | "label_amps"
  | "measured_amps"
  | "limit_amps"
  | "trip_amps"
  | "inrush_amps"
  | "volts"
  | "measured_volts"
  | "least_volts"
  | "supply_most_volts";

const seconds = (value: number | null | undefined) => (value ? `${+(value * 1000).toFixed(1)} ms` : "");

/** A time a person wrote: 50 ms, 0.5 s, or a bare number of milliseconds. Null where it is none. */
function readTime(text: string): number | null {
  const [, number, unit] = /^\s*(\d+(?:[.,]\d+)?)\s*(ms|s)?\s*$/i.exec(text) ?? [];
  const value = Number(number?.replace(",", "."));
  return Number.isFinite(value) && value > 0 ? (unit?.toLowerCase() === "s" ? value : value / 1000) : null;
}

/** Where a source would stand in the middle of what it feeds, and the move there. */
function BestPlace({ device }: { device: string }) {
  const { id, revision } = useWhere();
  const [asked, setAsked] = useState(false);
  const [moving, setMoving] = useState(false);
  const { data, error } = useQuery({
    queryKey: ["best-place", id, revision, device],
    enabled: asked,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/best-place", {
          params: { path: { layout_id: id }, query: { device, revision } },
        }),
      ),
  });
  return (
    <div className="mt-2 text-xs" data-testid="best-place">
      {!asked ? (
        <button type="button" className="act" onClick={() => setAsked(true)}>
          Where it stands best…
        </button>
      ) : error ? (
        <p role="alert" className="text-oxide">
          {(error as Error).message}
        </p>
      ) : !data ? (
        <p className="text-mute">Measuring the ways…</p>
      ) : (
        <p>
          {bound(data.words)}{" "}
          {data.change ? (
            <button type="button" className="act" onClick={() => setMoving(true)}>
              Move it…
            </button>
          ) : null}
        </p>
      )}
      {moving && data?.change ? (
        <Preview title={data.words} decides={data.words} mend={data.change} onClose={() => setMoving(false)} />
      ) : null}
    </div>
  );
}

/** A supply, source, breaker, reverser or step-down: its ratings as labelled and as measured. */
export function Device({ id, layout }: CardProps) {
  const device = layout.devices?.[id];
  const set = useSet(`/devices/${id}`, device?.name ?? id);
  const draw = useLayout((s) => s.draw);
  const select = useBench((s) => s.select);
  if (!device) return null;
  if (device.kind === "selector") return <Selector id={id} layout={layout} />;
  const source = SOURCE_KINDS.includes(device.kind);
  const supplies = Object.values(layout.devices ?? {}).filter((d) => d.kind === "supply");
  const direct = device.kind === "supply" || device.kind === "step-down";
  const reverses = device.kind === "reverser" || device.kind === "reversing switch";
  const hangs = !source && device.kind !== "supply";
  const figure = (label: string, field: Figure, empty: string) => {
    const [kind, unit] = field.endsWith("volts") ? (["volts", "V"] as const) : (["current", "A"] as const);
    return (
      <Typed
        label={label}
        kind={kind}
        at={`/devices/${id}/${field}`}
        shown={device[field] ? `${device[field]} ${unit}` : ""}
        clearable
        placeholder={empty}
        onTake={(v, t) => set(field, v, `${label.toLowerCase()} ${t || empty}`)}
      />
    );
  };
  const time = (label: string, field: "trip_seconds" | "recovery_seconds", empty: string) => (
    <Typed
      label={label}
      kind="text"
      shown={seconds(device[field])}
      placeholder={empty}
      clearable
      onTake={(v, t) => {
        if (v === null) return set(field, null, `${label.toLowerCase()} ${empty}`);
        const read = readTime(t);
        return read === null
          ? Promise.resolve("A time, such as 50 ms or 2 s.")
          : set(field, read, `${label.toLowerCase()} ${t}`);
      }}
    />
  );
  return (
    <>
      <Head title={device.name}>
        {device.kind} · feeds {layout.circuits?.[device.output]?.name}
      </Head>
      {device.guessed ? (
        <p className="mb-2 flex flex-wrap items-baseline gap-x-2 rounded-lg border border-line bg-paper p-2 text-xs">
          Usual for {layout.brief?.scale}, a guess: read volts and amps from its label.
          <button type="button" className="act" onClick={() => void set("guessed", false, "as on its label")}>
            They are as on its label
          </button>
        </p>
      ) : null}
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={device.name} onTake={(v) => set("name", v, String(v))} />
        {reverses || device.kind === "switch" || device.kind === "detector"
          ? null
          : figure("Trips at", "trip_amps", "no trip")}
        {time(reverses ? "Turns over in" : "Opens after", "trip_seconds", "not known")}
        {reverses || direct ? null : time("Tries again after", "recovery_seconds", "by hand")}
        {reverses ? null : figure("Amps on its label", "label_amps", "not known")}
        {source || direct ? figure("Amps measured", "measured_amps", "not measured") : null}
        {source || direct ? figure("Most it gives", "limit_amps", "not known") : null}
        {reverses || direct ? null : figure("Lets through at start", "inrush_amps", "its trip")}
        {source || direct
          ? figure("Volts, label", "volts", source ? `${layout.brief?.track_volts} V, track` : "12 V")
          : null}
        {source || direct ? figure("Volts, measured", "measured_volts", "not measured") : null}
        {(source || direct) && device.measured_volts ? (
          <Typed
            label="while it gave"
            kind="current"
            shown={`${device.measured_at_amps ?? 0} A`}
            hint="0 A when nothing was drawn: sag is then not counted twice"
            onTake={(v, t) => set("measured_at_amps", v, `measured at ${t}`)}
          />
        ) : null}
        {source ? <SourceControl id={id} layout={layout} /> : null}
        {device.kind === "reversing switch" ? (
          <Choice
            label="Thrown"
            value={device.turned ? "turned round" : "as it comes"}
            options={["as it comes", "turned round"] as const}
            onChange={(v) => void set("turned", v === "turned round", v)}
          />
        ) : null}
        {source ? (
          <Choice
            label="Its own supply"
            value={supplies.find((s) => s.output === device.input)?.name ?? "not drawn"}
            options={["not drawn", ...supplies.map((s) => s.name)]}
            onChange={(name) =>
              void set("input", supplies.find((s) => s.name === name)?.output ?? null, `supplied by ${name}`)
            }
          />
        ) : null}
        {source ? figure("Its input stands", "supply_most_volts", "not known") : null}
        {device.kind === "step-down" ? figure("Works from", "least_volts", "any") : null}
        <Typed
          label={source || direct ? "Inside resistance" : "Resistance, both ways"}
          kind="ohms"
          at={`/devices/${id}/ohms`}
          shown={`${+((device.ohms ?? 0.02) * 1000).toFixed(1)} mΩ`}
          onTake={(v, t) => set("ohms", v, t)}
        />
        {hangs ? (
          <Choice
            label="Takes power from"
            value={layout.circuits?.[device.input ?? ""]?.name ?? ""}
            options={Object.values(layout.circuits ?? {}).map((c) => c.name)}
            onChange={(name) => {
              const input = Object.entries(layout.circuits ?? {}).find(([, c]) => c.name === name)?.[0];
              if (input) void draw({ act: "rehang", device: id, input });
            }}
          />
        ) : null}
      </div>
      {device.kind === "booster" || device.kind === "station" ? (
        <label className="mt-2 flex items-center gap-1.5 text-xs">
          <input
            type="checkbox"
            checked={device.reference ?? false}
            onChange={(e) =>
              void set("reference", e.target.checked, e.target.checked ? "reference wire tied" : "no reference wire")
            }
          />
          Tied to the floating reference wire of the boosters
        </label>
      ) : null}
      {source || direct ? (
        <p className="mt-2 text-mute text-xs">
          Low volts can still burn: tens of watts can go into one bad joint. Unplug before working on it; its mains side
          is for a licensed electrician.
        </p>
      ) : null}
      <Settings path={`/devices/${id}`} name={device.name} settings={device.settings ?? ""} />
      {source ? <BestPlace device={id} /> : null}
      <button
        type="button"
        className="act mt-2 text-xs"
        onClick={() => {
          void draw({ act: "erase", things: [{ kind: "device", id }] });
          select(null);
        }}
      >
        Take this {device.kind} away
      </button>
    </>
  );
}
