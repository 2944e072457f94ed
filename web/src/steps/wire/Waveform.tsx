import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Layout, type Shape } from "../../api/client";
import { useWhere, useWiringSchools } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

type Make = NonNullable<NonNullable<Layout["runs"]>[string]["make"]>;
const WIDE = 440;
const HIGH = 172;
const TOP = 20;
const FOOT = 18;

/** One edge of the square wave as it arrives at the end of a run, and what twisting or a filter would do to it. */
export function Waveform() {
  const { id, revision, ready } = useWhere();
  const layout = useLayout((s) => s.state?.document);
  const { data: schools } = useWiringSchools();
  const selected = useBench((s) => s.selected);
  const show = useBench((s) => s.show);
  const runs = Object.entries(layout?.runs ?? {}).filter(
    ([, r]) => layout?.circuits?.[r.circuit]?.purpose !== "accessory",
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const [make, setMake] = useState<Make | "">("");
  const [asked, setAsked] = useState<boolean | null>(null);
  const known = (run: string | null | undefined) => (run && runs.some(([key]) => key === run) ? run : null);
  const run = known(selected?.kind === "run" ? selected.id : null) ?? known(chosen) ?? runs[0]?.[0] ?? "";
  // As the layout has it, until somebody asks for the other.
  const filtered = asked ?? Boolean(layout?.runs?.[run]?.filter);
  const { data, error, isFetching } = useQuery({
    queryKey: ["waveform", id, revision, run, make, filtered],
    enabled: ready && run !== "",
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/waveform", {
          params: { path: { layout_id: id }, query: { run, revision, filtered, ...(make ? { make } : {}) } },
        }),
      ),
  });
  if (!runs.length)
    return <p className="text-[12px] text-mute">No run yet. Lay the railroad first, or draw a bus in step Track.</p>;
  return (
    <section aria-label="Waveform" className="text-[12px]" data-testid="waveform">
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col text-[11.5px] text-mute">
          At the end of
          <select
            className="field mt-0.5 w-auto text-ink"
            value={run}
            onChange={(event) => {
              setChosen(event.target.value);
              setAsked(null);
              show({ kind: "run", id: event.target.value }, null);
            }}
          >
            {runs.map(([key, r]) => (
              <option key={key} value={key}>
                Bus {r.label}, {layout?.circuits?.[r.circuit]?.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col text-[11.5px] text-mute">
          The two wires lie
          <select
            className="field mt-0.5 w-auto text-ink"
            value={make}
            onChange={(event) => setMake(event.target.value as Make | "")}
          >
            <option value="">as they do: {layout?.runs?.[run]?.make ?? "side by side"}</option>
            {(schools?.makes ?? []).map((m) => (
              <option key={m} value={m}>
                as if {m}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={filtered} onChange={(event) => setAsked(event.target.checked)} />
          with a filter at its end
        </label>
        {isFetching ? <progress className="mb-2 h-1.5 w-24" /> : null}
      </div>
      {error ? (
        <p role="alert" className="mt-2 text-oxide">
          {(error as Error).message}
        </p>
      ) : null}
      {data ? (
        <div className="mt-2 flex flex-wrap items-start gap-x-6 gap-y-2">
          <Plot data={data} filtered={filtered} />
          <div className="min-w-64 max-w-xl flex-1">
            <p className="font-semibold text-[13px]" data-testid="verdict">
              {data.verdict}
            </p>
            <p className="mt-1">{bound(data.swing_text)}.</p>
            <Measured data={data} />
            <p className="mt-1 text-mute">{data.settle}</p>
            <table className="mt-2">
              <thead className="text-left text-[11px] text-mute">
                <tr>
                  {["Wires", "Filter", "Beyond the wave", "Through zero", "Rings at", "Late by", "Kick of a short"].map(
                    (h) => (
                      <th key={h} className="border-line border-b py-0.5 pr-3 font-medium">
                        {h}
                      </th>
                    ),
                  )}
                </tr>
              </thead>
              <tbody>
                {data.rows.map((r) => (
                  <tr
                    key={r.make + String(r.filtered)}
                    className={`border-line border-b ${r.here ? "bg-board font-semibold" : ""}`}
                    title={r.verdict}
                  >
                    <td className="py-0.5 pr-3">{r.make}</td>
                    <td className="pr-3">{r.filtered ? "yes" : "no"}</td>
                    <td className="figure whitespace-nowrap pr-3">{bound(r.over_text)}</td>
                    <td className={`figure pr-3 ${r.crossings ? "text-oxide" : ""}`}>
                      {r.crossings ? `${r.crossings} × again` : "once"}
                    </td>
                    <td className="figure whitespace-nowrap pr-3">{bound(r.ring_text)}</td>
                    <td className="figure whitespace-nowrap pr-3">{bound(r.late_text)}</td>
                    <td className="figure whitespace-nowrap">{bound(r.kick_text)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="mt-2">{bound(data.filter_text)}</p>
            <FilterHere data={data} />
            <p className="mt-1">{bound(data.short_text)}</p>
            <p className="mt-1 text-mute">Schools: {data.schools.join(" ")}</p>
          </div>
        </div>
      ) : null}
    </section>
  );
}

/** What somebody measured at the end of the bus, and how far the sum is from it. */
function Measured({ data }: { data: Shape["WaveformShape"] }) {
  const edit = useLayout((s) => s.edit);
  return (
    <div className="mt-1 flex items-end gap-2" data-testid="measured">
      <div className="w-44">
        <Typed
          label="Measured there, peak to peak"
          kind="volts"
          shown={data.measured ? `${data.measured} V` : ""}
          placeholder="nothing on the track"
          clearable
          onTake={(v, t) =>
            edit(
              `${data.label}: ${t || "no volts"} from peak to peak`,
              [{ op: "replace", path: `/runs/${data.run}/peak_to_peak`, value: v }],
              true,
            )
          }
        />
      </div>
      <p className="flex-1 pb-1">{bound(data.measured_text)}</p>
    </div>
  );
}

/** The filter the layout has at the end of this run, put there or taken off. */
function FilterHere({ data }: { data: Shape["WaveformShape"] }) {
  const edit = useLayout((s) => s.edit);
  const path = `/runs/${data.run}/filter`;
  return (
    <p className="mt-1.5 flex flex-wrap items-center gap-2" data-testid="filter">
      {data.fitted_text ? (
        <>
          <span>
            Fitted: <span className="figure">{bound(data.fitted_text)}</span>.
          </span>
          <button
            type="button"
            className="btn"
            onClick={() => void edit(`Take the filter off ${data.label}`, [{ op: "replace", path, value: null }])}
          >
            Take it off
          </button>
        </>
      ) : data.barred ? (
        <span className="text-oxide">{data.barred}</span>
      ) : (
        <button
          type="button"
          className="btn"
          onClick={() =>
            void edit(`Filter at the end of ${data.label}`, [
              { op: "add", path, value: { ohms: 100, farads: 1e-7, watts: data.rating } },
            ])
          }
        >
          Put a filter at its end, rated {data.rating} W
        </button>
      )}
    </p>
  );
}

/** The curve at the end of the run over 40 µs, with the source's edge behind it and the other choice of filter in grey. */
function Plot({ data, filtered }: { data: Shape["WaveformShape"]; filtered: boolean }) {
  const most = Math.max(data.track_volts * 1.15, ...data.wave.volts, ...data.calmer.volts, ...data.worst.volts);
  const least = Math.min(-data.track_volts * 1.1, ...data.wave.volts, ...data.worst.volts);
  const x = (us: number) => 34 + (us / 40) * (WIDE - 60);
  const y = (v: number) => TOP + ((most - v) / (most - least)) * (HIGH - TOP - FOOT);
  const path = (w: Shape["Wave"]) =>
    w.microseconds.map((t, k) => `${k ? "L" : "M"}${x(t).toFixed(1)} ${y(w.volts[k] ?? 0).toFixed(1)}`).join("");
  const peak = Math.max(...data.wave.volts);
  return (
    <svg
      width={WIDE}
      height={HIGH}
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={`Volts at the end of bus ${data.label}: peak ${peak.toFixed(1)} V, square wave ${data.track_volts} V`}
      className="max-w-full rounded border border-line bg-paper"
    >
      {[-data.track_volts, 0, data.track_volts].map((v) => (
        <g key={v}>
          <path d={`M34 ${y(v)}H${WIDE - 10}`} stroke="var(--line)" strokeWidth="1" />
          <text x="30" y={y(v) + 3.5} fontSize="10" textAnchor="end" fill="var(--mute)" className="figure">
            {v > 0 ? "+" : v < 0 ? "−" : ""}
            {Math.abs(v)}
          </text>
        </g>
      ))}
      {[0, 10, 20, 30, 40].map((t) => (
        <text key={t} x={x(t)} y={HIGH - 3} fontSize="10" textAnchor="middle" fill="var(--mute)" className="figure">
          {t} µs
        </text>
      ))}
      <path d={path(data.source)} fill="none" stroke="var(--slate)" strokeWidth="1.2" strokeDasharray="4 3" />
      <path d={path(data.worst)} fill="none" stroke="var(--amber)" strokeWidth="1.1" />
      <path d={path(data.calmer)} fill="none" stroke="var(--dead)" strokeWidth="1.4" />
      <path d={path(data.wave)} fill="none" stroke="var(--copper)" strokeWidth="2" />
      <text x={WIDE - 12} y="13" fontSize="10" textAnchor="end" fill="var(--mute)">
        copper: 1 µs, 2 nF · amber: the worst · grey: {filtered ? "no filter" : "filter"} · dashed: as sent
      </text>
    </svg>
  );
}
