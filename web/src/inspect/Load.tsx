import { Choice, Typed } from "../parts/Typed";
import { type CardProps, Head, useSet } from "./card";

const DRAWS = { current: "the same amps", power: "more amps", resistance: "fewer amps" } as const;

/** An accessory that stands on the plan. */
export function Load({ id, layout }: CardProps) {
  const load = layout.loads?.[id];
  const set = useSet(`/loads/${id}`, load?.name ?? id);
  if (!load) return null;
  return (
    <>
      <Head title={load.name}>
        {load.count ?? 1} × {load.kind} on {layout.circuits?.[load.circuit]?.name}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={load.name} onTake={(v) => set("name", v, String(v))} />
        <Typed
          label="Tied at terminal"
          kind="text"
          shown={load.terminal ?? ""}
          clearable
          placeholder="the farthest"
          options={Object.entries(layout.terminals ?? {})
            .filter(([, t]) => layout.runs?.[t.run]?.circuit === load.circuit)
            .map(([key]) => key)}
          onTake={(v, t) => set("terminal", v, t ? `tied at ${t}` : "the farthest terminal")}
        />
        <Choice
          label="As volts sag it draws"
          value={DRAWS[load.draws ?? "current"]}
          options={Object.values(DRAWS)}
          onChange={(v) => void set("draws", Object.entries(DRAWS).find(([, n]) => n === v)?.[0] ?? "current", v)}
        />
      </div>
      <label className="mt-2 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={load.throws ?? false}
          onChange={(e) =>
            void set("throws", e.target.checked, e.target.checked ? "throws turnouts" : "throws nothing")
          }
        />
        It throws turnouts, or tells what does
      </label>
      <label className="mt-1 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={load.measured ?? false}
          onChange={(e) => void set("measured", e.target.checked, e.target.checked ? "measured" : "a guess")}
        />
        Its amps were measured
      </label>
      <p className="mt-1.5 text-mute text-xs">Its figures: step Zones, Accessory power.</p>
    </>
  );
}
