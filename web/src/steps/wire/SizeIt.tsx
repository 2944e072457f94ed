import { useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere, useWiringSchools } from "../../api/queries";
import { useStreamed } from "../../api/useStreamed";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { Progress } from "../../parts/Progress";
import { useBench } from "../../store/bench";
import { Spools } from "./Spools";

type Sized = Shape["SizedShape"];
/** The cheapest gauges for every run that hold drop, coin test and heat, each with what keeps it from being lighter. */
export function SizeIt() {
  const { id, revision, scene } = useWhere();
  const show = useBench((s) => s.show);
  const [drop, setDrop] = useState("");
  const [feeders, setFeeders] = useState(false);
  const { data: schools } = useWiringSchools();
  const { done, wrong, start, stop } = useStreamed<Sized>();
  const [sized, setSized] = useState<{ key: string; answer: Sized } | null>(null);
  const [making, setMaking] = useState(false);
  const query = new URLSearchParams({ revision: String(revision) });
  if (scene) query.set("scene", scene);
  if (feeders) query.set("feeders", "true");
  if (drop) query.set("drop", drop);
  const key = `${id}?${query}`;
  const work = async () => {
    const answer = await start(`/api/layouts/${id}/sizing?${query}`);
    if (answer) setSized({ key, answer });
  };
  const answer = sized?.key === key ? sized.answer : null;
  // Worked out for a layout that has changed since: better said than silently dropped.
  const late = sized !== null && !answer && !done;
  return (
    <section aria-label="Size it" className="text-[12px]" data-testid="size">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void work();
        }}
      >
        <label className="flex flex-col text-[11.5px] text-mute">
          Hold
          <select
            className="field mt-0.5 w-auto text-ink"
            value={drop}
            onChange={(event) => setDrop(event.target.value)}
          >
            <option value="">the house rule's drop</option>
            {schools?.drops.map((d) => (
              <option key={d.share} value={d.share}>
                {bound(d.words)}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={feeders} onChange={(event) => setFeeders(event.target.checked)} />
          Feeders too
        </label>
        <button type="submit" className="btn-main" disabled={done !== null}>
          {done ? "Weighing designs…" : "Size it"}
        </button>
        <Progress done={done} onStop={stop} />
        {answer ? (
          <span className="pb-1">
            All wire: <b className="figure">{bound(answer.before_text)}</b> now,{" "}
            <b className="figure">{bound(answer.price_text)}</b> sized.{" "}
            {answer.change ? (
              <button type="button" className="act font-semibold" onClick={() => setMaking(true)}>
                Make it…
              </button>
            ) : (
              "Every gauge is right already."
            )}
          </span>
        ) : null}
      </form>
      {late ? (
        <p className="mt-1.5 text-mute">The layout or the wish changed since it was sized. Size it again.</p>
      ) : null}
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide">
          {wrong}
        </p>
      ) : null}
      {answer ? (
        <div className="mt-2 grid gap-3">
          {answer.sources.map((s) => (
            <div key={s.source}>
              <p>
                <b>{s.name}</b>: lowest <span className="figure">{bound(s.lowest_text)}</span> at the wheel by
                resistance ({bound(s.drop_text)} down), weakest short{" "}
                <span className="figure">{bound(s.coin_text)}</span>;{" "}
                <span className="figure">{bound(s.price_text)}</span>, {bound(s.bound_text)}.
              </p>
              {s.cheaper ? (
                <p>
                  <span className="text-mute">Next cheaper:</span> {s.cheaper}.
                </p>
              ) : null}
              {s.better ? (
                <p>
                  <span className="text-mute">Next better:</span> {s.better}.
                </p>
              ) : null}
              {s.beyond ? <p className="text-oxide">{s.beyond}</p> : null}
              <table className="mt-1">
                <tbody>
                  {s.runs.map((r) => (
                    <tr key={r.run} className="border-line border-t">
                      <td className="py-0.5 pr-3">
                        <button type="button" className="act" onClick={() => show({ kind: "run", id: r.run }, null)}>
                          {r.label}
                        </button>
                      </td>
                      <td className="pr-3">{r.circuit}</td>
                      <td className="figure whitespace-nowrap pr-3">{bound(r.length_text)}</td>
                      <td className="figure whitespace-nowrap pr-3">{r.before}</td>
                      <td className={`figure whitespace-nowrap pr-3 ${r.before === r.after ? "" : "font-semibold"}`}>
                        {r.after}
                      </td>
                      <td className="pr-3 text-mute">{bound(r.why)}</td>
                      <td className="whitespace-nowrap text-mute">a chart: {bound(r.chart)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          ))}
          {answer.feeders_text ? (
            <div data-testid="feeder-sizes">
              <p>
                <b>Feeders</b>: {bound(answer.feeders_text)}.
              </p>
              <table className="mt-1">
                <tbody>
                  {answer.feeders.map((f) => (
                    <tr key={f.gauge} className="border-line border-t">
                      <td className="figure whitespace-nowrap py-0.5 pr-3">{f.count}</td>
                      <td className="figure whitespace-nowrap pr-3">{f.gauge}</td>
                      <td className="pr-3 text-mute">held there: {f.reasons}</td>
                      <td className="whitespace-nowrap text-mute">a chart: {bound(f.chart)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          ) : null}
          <p className="text-mute">{bound(answer.words)}</p>
          <p className="text-mute">
            A chart, as they go from club to club, has scale and length alone: it knows nothing of trains, trips and
            contacts. No source, certainty C.
          </p>
        </div>
      ) : (
        <p className="mt-2 max-w-2xl text-mute">
          The cheapest gauges for all runs at once, tried on the whole network: drop in the scene chosen, coin test at
          every rail, and heat in a short that just does not trip. Without prices the least copper counts.
        </p>
      )}
      <Spools />
      {answer?.change && making ? (
        <Preview
          title={feeders ? "The gauges as sized." : "The gauges as sized; feeders stay as they are."}
          mend={answer.change}
          onClose={() => setMaking(false)}
        />
      ) : null}
    </section>
  );
}
