import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useId, useState } from "react";
import { answer, api, Refused } from "../../api/client";
import { bound } from "../../parts/bound";
import { Segmented } from "../../parts/Segmented";
import { useLayout } from "../../store/layout";

type Fields = Record<string, string>;

/** What was asked, answered as one types; a field that cannot be read says so beside itself. */
function useSum<T>(name: string, fields: Fields, ask: () => Promise<T>) {
  const asked = useDeferredValue(JSON.stringify(fields));
  const { data, error } = useQuery({
    queryKey: ["sum", name, asked],
    queryFn: ask,
    retry: false,
    placeholderData: keepPreviousData,
  });
  const wrong =
    error instanceof Refused
      ? Object.fromEntries((error.trouble.problems ?? []).map((p) => [p.path.slice(1), p.sentence]))
      : {};
  return { data: error ? undefined : data, wrong, failed: error && !Object.keys(wrong).length ? error.message : null };
}

function Field({
  label,
  value,
  wrong,
  onChange,
}: {
  label: string;
  value: string;
  wrong?: string;
  onChange: (v: string) => void;
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-[11.5px] text-mute">
        {label}
      </label>
      <input
        id={id}
        className="field figure"
        value={value}
        aria-invalid={wrong !== undefined}
        aria-describedby={wrong ? `${id}-w` : undefined}
        onChange={(e) => onChange(e.target.value)}
      />
      {wrong ? (
        <p id={`${id}-w`} role="alert" className="mt-0.5 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}

const Card = ({ title, lead, children }: { title: string; lead: string; children: ReactNode }) => (
  <section className="rounded-xl border border-line bg-card p-4" aria-label={title}>
    <h3 className="font-bold text-sm">{title}</h3>
    <p className="mb-3 text-mute text-xs">{lead}</p>
    {children}
  </section>
);

/** Quick sums, for the friend without a layout. */
export function SumsStep() {
  const layoutUnits = useLayout((s) => s.state?.document.brief?.units);
  const [units, setUnits] = useState<"imperial" | "metric">(layoutUnits ?? "imperial");
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[1100px] p-5">
        <div className="mb-4 flex items-center gap-4">
          <h2 className="font-bold text-lg">Quick sums</h2>
          <Segmented
            label="Units of the sums"
            value={units}
            options={[
              ["imperial", "ft · AWG"],
              ["metric", "m · mm²"],
            ]}
            onChange={setUnits}
          />
          <span className="text-mute text-xs">Type as you would write it: 35', 8' 2 1/2", 12 m, 300 mA.</span>
        </div>
        <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]">
          <RunSum key={units} units={units} />
          <div className="grid gap-4">
            <TrainsSum />
            <LedSum />
            <WireSum key={units} units={units} />
          </div>
        </div>
        <p className="mt-4 text-mute text-xs">
          Low volts can still burn: put a fuse or breaker near the supply and size wire for it. Local codes and licensed
          practice come first; mains wiring is for a licensed electrician.
        </p>
      </div>
    </div>
  );
}

function RunSum({ units }: { units: "imperial" | "metric" }) {
  const [f, set] = useState({
    length: units === "imperial" ? "35'" : "10 m",
    current: "5 A",
    volts: "14.4 V",
    drop: "5",
  });
  const [strands, setStrands] = useState<"stranded" | "solid">("stranded");
  const { data, wrong, failed } = useSum("run", { ...f, units, strands }, () =>
    answer(api.POST("/api/quick/run", { body: { ...f, units, strands } })),
  );
  const change = (key: keyof typeof f) => (value: string) => set({ ...f, [key]: value });
  return (
    <Card
      title="Size a run"
      lead="One pair of wires from a supply to a load at its end. Give the length one way; the sum counts there and back."
    >
      <div className="grid grid-cols-4 gap-2.5">
        <Field label="Length, one way" value={f.length} wrong={wrong.length} onChange={change("length")} />
        <Field label="Current at the end" value={f.current} wrong={wrong.current} onChange={change("current")} />
        <Field label="Supply volts" value={f.volts} wrong={wrong.volts} onChange={change("volts")} />
        <Field label="Allowed drop, %" value={f.drop} wrong={wrong.drop} onChange={change("drop")} />
      </div>
      <div className="mt-2">
        <Segmented
          label="Strands"
          value={strands}
          options={[
            ["stranded", "stranded"],
            ["solid", "solid"],
          ]}
          onChange={setStrands}
        />
      </div>
      {failed ? <p className="mt-2 text-oxide text-xs">{failed}</p> : null}
      {data ? (
        <>
          <p className="mt-3 rounded-lg border border-line bg-paper p-2.5" aria-live="polite" data-testid="run-answer">
            {data.answer ? <b className="figure mr-2 text-[17px]">{data.answer}</b> : null}
            {data.sentence}
          </p>
          <table className="mt-3 w-full text-xs [&_td]:whitespace-nowrap [&_td]:pr-2 [&_th]:pr-2">
            <thead className="text-left text-[11px] text-mute">
              <tr>
                {["Gauge", "Drop", "Share", "Short at the end", "Heat, whole run", "May carry", ""].map((h) => (
                  <th key={h} className="font-medium">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody className="figure">
              {data.rows.map((r) => (
                <tr
                  key={r.gauge}
                  className={`border-line border-t ${r.gauge === data.answer ? "bg-board font-bold" : r.fits ? "" : "text-mute"}`}
                >
                  <td className="py-0.5 pl-1">{r.gauge}</td>
                  <td>{bound(r.drop_text)}</td>
                  <td>{bound(r.share_text)}</td>
                  <td>{bound(r.short_text)}</td>
                  <td>{bound(r.heat_text)}</td>
                  <td title={r.carries_why}>{bound(r.carries_text)}</td>
                  <td className="!whitespace-normal font-sans">
                    {r.gauge === data.answer ? "lightest that fits" : r.fits ? "fits" : r.why_not}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      ) : null}
    </Card>
  );
}

function TrainsSum() {
  const [f, set] = useState({ booster: "5 A", train: "500 mA", idle: "100 mA", keep: "20" });
  const { data, wrong } = useSum("trains", f, () => answer(api.POST("/api/quick/trains", { body: f })));
  const change = (key: keyof typeof f) => (value: string) => set({ ...f, [key]: value });
  return (
    <Card title="How many trains" lead="What one booster carries at once, with some kept for starts and sound.">
      <div className="grid grid-cols-2 gap-2.5">
        <Field label="Booster" value={f.booster} wrong={wrong.booster} onChange={change("booster")} />
        <Field label="One train running" value={f.train} wrong={wrong.train} onChange={change("train")} />
        <Field label="One train standing" value={f.idle} wrong={wrong.idle} onChange={change("idle")} />
        <Field label="Kept free, %" value={f.keep} wrong={wrong.keep} onChange={change("keep")} />
      </div>
      {data ? (
        <p className="mt-3 rounded-lg border border-line bg-paper p-2.5" aria-live="polite">
          <b className="figure mr-2 text-[17px]">{data.trains} trains</b>
          {data.sentence}
        </p>
      ) : null}
    </Card>
  );
}

function LedSum() {
  const [f, set] = useState({ supply: "12 V", led: "2 V", current: "10 mA", series: "1" });
  const series = Number(f.series);
  const whole = Number.isInteger(series) && series >= 1 && series <= 20;
  const { data, wrong } = useSum("led", f, () =>
    whole
      ? answer(api.POST("/api/quick/led", { body: { ...f, series } }))
      : Promise.reject(
          new Refused(422, { message: "", problems: [{ path: "/series", sentence: "A whole number from 1 to 20." }] }),
        ),
  );
  const change = (key: keyof typeof f) => (value: string) => set({ ...f, [key]: value });
  return (
    <Card title="Resistor for an LED" lead="LEDs in series on a DC supply.">
      <div className="grid grid-cols-2 gap-2.5">
        <Field label="Supply" value={f.supply} wrong={wrong.supply} onChange={change("supply")} />
        <Field label="One LED drops" value={f.led} wrong={wrong.led} onChange={change("led")} />
        <Field label="Current" value={f.current} wrong={wrong.current} onChange={change("current")} />
        <Field label="LEDs in series" value={f.series} wrong={wrong.series} onChange={change("series")} />
      </div>
      {data ? (
        <p className="mt-3 rounded-lg border border-line bg-paper p-2.5" aria-live="polite">
          <b className="figure mr-2 text-[17px]">
            {data.resistor}, {data.watts}
          </b>
          {data.sentence}
        </p>
      ) : null}
    </Card>
  );
}

function WireSum({ units }: { units: "imperial" | "metric" }) {
  const [by, setBy] = useState<"strands" | "ohms">("strands");
  const [f, set] = useState({
    strands: "19",
    diameter: "0.29 mm",
    ohms: "166 mΩ",
    length: units === "imperial" ? "33'" : "10 m",
  });
  const [pair, setPair] = useState(true);
  const strands = Number(f.strands);
  const whole = Number.isInteger(strands) && strands >= 1 && strands <= 5000;
  const { data, wrong } = useSum("wire", { ...f, by, units, pair: String(pair) }, () =>
    whole || by === "ohms"
      ? answer(api.POST("/api/quick/wire", { body: { ...f, strands: whole ? strands : 1, by, units, pair } }))
      : Promise.reject(
          new Refused(422, {
            message: "",
            problems: [{ path: "/strands", sentence: "A whole number from 1 to 5000." }],
          }),
        ),
  );
  const change = (key: keyof typeof f) => (value: string) => set({ ...f, [key]: value });
  return (
    <Card title="What wire is this?" lead="Cable of unknown make: by its strands, or by the ohms of a known length.">
      <Segmented
        label="Told by"
        value={by}
        options={[
          ["strands", "strands"],
          ["ohms", "ohms"],
        ]}
        onChange={setBy}
      />
      <div className="mt-2 grid grid-cols-2 gap-2.5">
        {by === "strands" ? (
          <>
            <Field label="Strands" value={f.strands} wrong={wrong.strands} onChange={change("strands")} />
            <Field label="Thickness of one" value={f.diameter} wrong={wrong.diameter} onChange={change("diameter")} />
          </>
        ) : (
          <>
            <Field label="The meter reads" value={f.ohms} wrong={wrong.ohms} onChange={change("ohms")} />
            <Field label="Length of the cable" value={f.length} wrong={wrong.length} onChange={change("length")} />
            <label className="col-span-2 flex items-center gap-1.5 text-xs">
              <input type="checkbox" checked={pair} onChange={(e) => setPair(e.target.checked)} />
              there and back: the far ends joined, both near ends metered, leads zeroed
            </label>
          </>
        )}
      </div>
      {data ? (
        <div className="mt-3 rounded-lg border border-line bg-paper p-2.5" aria-live="polite" data-testid="wire-answer">
          <b className="figure mr-2 text-[17px]">{data.gauge}</b>
          {data.sentence}
          <p className="mt-1.5 text-mute text-xs">May carry, by school, the cautious one first:</p>
          <ul className="text-xs">
            {data.carries.map(([school, amps, source]) => (
              <li key={school}>
                <b className="figure">{amps}</b> {school} <span className="text-mute">· {source}</span>
              </li>
            ))}
          </ul>
        </div>
      ) : null}
    </Card>
  );
}
