import { useState } from "react";
import { useZones } from "../../api/queries";
import { Ink } from "../../parts/Ink";
import { Swatch, WIRE_COLOURS } from "../../parts/Swatch";
import { Choice, Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

const OWN = "its own";

/** The circuits: paint track into one, or hang a new breaker or reverser under one. */
export function Districts() {
  const layout = useLayout((s) => s.state?.document);
  const draw = useLayout((s) => s.draw);
  const { paint, set } = useBench();
  const { data } = useZones();
  const [name, setName] = useState("");
  const [under, setUnder] = useState("");
  const [kind, setKind] = useState<"breaker" | "reverser" | "switch" | "detector">("breaker");
  const [wrong, setWrong] = useState<string | null>(null);
  const edit = useLayout((s) => s.edit);
  const circuits = Object.entries(layout?.circuits ?? {}).filter(
    ([id, c]) =>
      c.purpose !== "accessory" && !Object.values(layout?.devices ?? {}).some((d) => d.board && d.output === id),
  );
  // A booster's own bus comes last: track is seldom given to it once there are breakers.
  const behind = (id: string) => Object.values(layout?.devices ?? {}).find((d) => d.output === id)?.kind !== "booster";
  circuits.sort((a, b) => Number(behind(b[0])) - Number(behind(a[0])));
  const chosen = paint ? layout?.circuits?.[paint] : undefined;
  const put = (field: string, value: unknown, words: string) =>
    edit(`${chosen?.name}: ${words}`, [{ op: "replace", path: `/circuits/${paint}/${field}`, value }], true);
  const parent = under || circuits.find(([id]) => !behind(id))?.[0] || circuits[0]?.[0] || "";
  const add = async () => {
    if (!name.trim()) return setWrong("Give the district a name.");
    if (!parent) return setWrong("Place a source first: step Track, tool Source.");
    const { made, why } = await draw({ act: "device", kind, input: parent, name: name.trim() });
    setWrong(why);
    if (!why) setName("");
    if (made) useBench.getState().select(made);
  };
  return (
    <section className="border-line border-b p-3" aria-label="Districts">
      <h2 className="font-bold text-sm">Districts</h2>
      <p className="mt-0.5 mb-1.5 text-mute text-xs">
        {data?.balance_text || "Choose one, then click track on the plan to put it there."}
      </p>
      <div className="flex flex-wrap gap-1">
        {circuits.map(([id, c]) => (
          <button
            key={id}
            type="button"
            aria-pressed={paint === id}
            className={`flex items-center gap-1.5 rounded-full border px-2 py-0.5 text-[11.5px] ${paint === id ? "border-ink bg-strong text-onstrong" : "border-line bg-paper"}`}
            onClick={() => set({ paint: paint === id ? null : id, note: null, look: "zones" })}
          >
            <i
              aria-hidden="true"
              className="block size-2.5 rounded-full"
              style={{ background: c.ink ?? "var(--copper)" }}
            />
            {c.name}
            <Swatch a={c.colour_a ?? "red"} b={c.colour_b ?? "black"} words={false} />
          </button>
        ))}
      </div>
      {chosen ? (
        <div className="mt-2 grid grid-cols-2 gap-2 rounded-lg border border-line bg-paper p-2" data-testid="recolour">
          <Typed label="Name" kind="text" shown={chosen.name} onTake={(v) => put("name", v, String(v))} />
          <Ink
            label="Ink on the plan"
            shown={(chosen.ink ?? "#B5622B").toLowerCase()}
            onTake={(ink) => void put("ink", ink, "another ink")}
          />
          <Typed
            label="Wire A"
            kind="text"
            shown={chosen.colour_a ?? "red"}
            options={WIRE_COLOURS}
            onTake={(v) => put("colour_a", v, `A in ${v}`)}
          />
          <Typed
            label="Wire B"
            kind="text"
            shown={chosen.colour_b ?? "black"}
            options={WIRE_COLOURS}
            onTake={(v) => put("colour_b", v, `B in ${v}`)}
          />
          <Choice
            label="Its wire B is"
            value={layout?.circuits?.[chosen.return_of ?? ""]?.name ?? OWN}
            options={[OWN, ...circuits.filter(([id]) => id !== paint).map(([, c]) => c.name)]}
            onChange={(name) => {
              const over = circuits.find(([, c]) => c.name === name)?.[0] ?? null;
              void put("return_of", over, over ? `returns over ${name}` : "a return of its own");
            }}
          />
        </div>
      ) : null}
      <form
        className="mt-2.5 grid grid-cols-2 gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="text-[11.5px] text-mute">
          New district
          <input
            className="field mt-0.5 text-ink"
            value={name}
            placeholder="Uplands"
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <label className="text-[11.5px] text-mute">
          behind a
          <select className="field mt-0.5 text-ink" value={kind} onChange={(e) => setKind(e.target.value as "breaker")}>
            <option value="breaker">breaker</option>
            <option value="reverser">reverser</option>
            <option value="switch">switch, by hand</option>
            <option value="detector">detector</option>
          </select>
        </label>
        <label className="text-[11.5px] text-mute">
          fed from
          <select className="field mt-0.5 text-ink" value={parent} onChange={(e) => setUnder(e.target.value)}>
            {circuits.map(([id, c]) => (
              <option key={id} value={id}>
                {c.name}
              </option>
            ))}
          </select>
        </label>
        <button type="submit" className="btn self-end">
          Add it
        </button>
      </form>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
    </section>
  );
}
