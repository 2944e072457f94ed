import { useState } from "react";
import { answer, api, type Layout, type Shape } from "../../api/client";
import { useAccessories, useUsualLoads, useWhere, useZones } from "../../api/queries";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { Columns } from "../../parts/Columns";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { LoadRow } from "./LoadRow";

type LoadKind = NonNullable<Layout["loads"]>[string]["kind"];

/** Supplies, step-downs and what hangs on them: counted or on the plan, with the volts that reach each. */
export function Accessories() {
  const layout = useLayout((s) => s.state?.document);
  const draw = useLayout((s) => s.draw);
  const { id, revision } = useWhere();
  const { data: zones } = useZones();
  const { data } = useAccessories();
  const { set, show } = useBench();
  const [kind, setKind] = useState<LoadKind>("switch machine");
  const [count, setCount] = useState("1");
  const [circuit, setCircuit] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const [mend, setMend] = useState<Shape["MendShape"] | null>(null);
  const { data: usual } = useUsualLoads();
  const circuits = Object.entries(layout?.circuits ?? {});
  const buses = circuits.filter(([, c]) => c.purpose === "accessory");
  const chosen = circuit || buses[0]?.[0] || circuits[0]?.[0] || "";
  const loads = Object.entries(layout?.loads ?? {});
  const sources = zones?.steps.filter((s) => s.kind === "supply" || s.kind === "step-down") ?? [];
  const starting = usual?.find((u) => u.kind === kind);
  const add = async () => {
    const many = Number(count);
    if (!Number.isInteger(many) || many < 1 || many > 2000) return setWrong("How many: a whole number from 1 to 2000.");
    if (!chosen) return setWrong("Place a supply first.");
    const name = `${kind.charAt(0).toUpperCase()}${kind.slice(1)}${many > 1 ? "s" : ""} ${loads.length + 1}`;
    const { made, why } = await draw({ act: "add load", kind, name, circuit: chosen, count: many });
    setWrong(why);
    if (made) show(made, null);
  };
  const lay = async (device: string) => {
    setWrong(null);
    try {
      setMend(
        await answer(
          api.GET("/api/layouts/{layout_id}/accessory-bus", {
            params: { path: { layout_id: id }, query: { device, revision } },
          }),
        ),
      );
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <section
      className="min-h-0 overflow-auto bg-card p-3 text-[12px]"
      aria-label="Accessory power"
      data-testid="accessories"
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        {sources.map((s) => (
          <span key={s.device} className="flex items-baseline gap-1.5">
            <button type="button" className="act" onClick={() => show({ kind: "device", id: s.device }, null)}>
              {s.name}
            </button>
            <span className={`figure ${(s.share ?? 0) > 1 ? "text-oxide" : ""}`}>{s.lines[0]}</span>
            <button type="button" className="act text-[11px]" onClick={() => void lay(s.device)}>
              Lay its bus…
            </button>
          </span>
        ))}
        <button type="button" className="btn" onClick={() => set({ placing: { what: "supply" } })}>
          Place a supply
        </button>
        <span className="text-mute">Mains wiring is for a licensed electrician; fuse each bus near its supply.</span>
      </div>
      {loads.length ? (
        <table className="mt-2 w-full max-w-[1100px]">
          <Columns
            names={[
              "What",
              "On",
              "How many",
              "at once",
              "Rest, each",
              "Work, each",
              "Wants from",
              "to",
              "Gets at work",
              "",
            ]}
          />
          <tbody>
            {loads.map(([key, load]) => (
              <LoadRow key={key} id={key} load={load} shape={data?.loads[key]} circuits={circuits} onWrong={setWrong} />
            ))}
          </tbody>
        </table>
      ) : (
        <p className="mt-2 max-w-2xl rounded-lg border border-line bg-paper p-2.5">
          Nothing yet. Place a supply, then add turnout motors, signals and lamps below: only counted, or standing on
          the plan. The volts that reach each come from the same sums as the track's.
        </p>
      )}
      <form
        className="mt-2 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="flex flex-col text-[11.5px] text-mute">
          Add
          <select
            className="field mt-0.5 w-auto text-ink"
            value={kind}
            onChange={(e) => setKind(e.target.value as LoadKind)}
          >
            {usual?.map((u) => (
              <option key={u.kind}>{u.kind}</option>
            ))}
          </select>
        </label>
        <label className="flex flex-col text-[11.5px] text-mute">
          how many
          <input
            className="field figure mt-0.5 w-16 text-ink"
            value={count}
            onChange={(e) => setCount(e.target.value)}
          />
        </label>
        <label className="flex flex-col text-[11.5px] text-mute">
          on
          <select className="field mt-0.5 w-auto text-ink" value={chosen} onChange={(e) => setCircuit(e.target.value)}>
            {[...buses, ...circuits.filter(([, c]) => c.purpose !== "accessory")].map(([key, c]) => (
              <option key={key} value={key}>
                {c.name}
              </option>
            ))}
          </select>
        </label>
        <button type="submit" className="btn">
          Add
        </button>
        {starting ? (
          <span className="pb-1 text-mute text-xs">
            Starts as a guess: {bound(starting.amps_text)} at rest, {bound(starting.working_text)} at work,{" "}
            {bound(starting.volts_text)}.
          </span>
        ) : null}
      </form>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide">
          {wrong}
        </p>
      ) : null}
      {mend ? (
        <Preview title="Along the track, to what stands on the plan" mend={mend} onClose={() => setMend(null)} />
      ) : null}
    </section>
  );
}
