import { useEffect, useState } from "react";
import { answer, api } from "../../api/client";
import { useStands } from "../../plan/Evening";
import { useBench } from "../../store/bench";
import { clock, type Entry, useEvening, whereIs } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { chain, latest, sampled } from "./about";
import { goTo } from "./run";
import { trackName } from "./usePlan";

/** Why: the train, head, breaker or moment that was asked about, with everything it follows from. */
export function About() {
  const trace = useEvening((s) => s.trace);
  const about = useEvening((s) => s.about);
  const second = useEvening((s) => Math.floor(s.now * 2) / 2);
  useEvening((s) => s.grown);
  const selected = useBench((s) => s.selected);
  if (!trace) return null;
  const head = selected?.kind === "signal" ? selected.id : null;
  const device = selected?.kind === "device" ? selected.id : null;
  if (head) return <AboutHead signal={head} />;
  if (device && trace.opening.devices.some((d) => d.id === device)) return <AboutDevice device={device} t={second} />;
  if (about?.kind === "train") return <AboutTrain id={about.id} t={second} />;
  if (about?.kind === "entry") {
    const entry = trace.entries[Number(about.id)];
    return entry ? (
      <Card title={clock(entry.t)}>
        <Why entries={chain(trace, entry)} />
      </Card>
    ) : null;
  }
  return null;
}

function Card({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="border-line border-b bg-paper p-3 text-[12.5px]" aria-label="Why" data-testid="why">
      <div className="flex items-baseline justify-between">
        <h2 className="font-bold text-sm">{title}</h2>
        <button
          type="button"
          className="act text-xs"
          onClick={() => {
            useEvening.setState({ about: null });
            useBench.getState().select(null);
          }}
        >
          Close
        </button>
      </div>
      {children}
    </section>
  );
}

/** Sentences from what happened down to its root, each with the way to its moment. */
function Why({ entries }: { entries: Entry[] }) {
  if (!entries.length) return null;
  return (
    <ol className="mt-1.5 grid gap-1.5 border-copper border-l-2 pl-2">
      {entries.map((e, k) => (
        <li key={e.n}>
          <button type="button" className="text-left hover:underline" onClick={() => goTo(e.t, e.track, e.at)}>
            <span className="figure text-[11px] text-mute">
              {clock(e.t)}
              {k ? ", because" : ""}
            </span>
            <br />
            {e.words}
          </button>
        </li>
      ))}
    </ol>
  );
}

function AboutTrain({ id, t }: { id: string; t: number }) {
  const trace = useEvening((s) => s.trace);
  const follow = useEvening((s) => s.follow);
  if (!trace) return null;
  const k = trace.opening.trains.findIndex((x) => x.key === id);
  const train = trace.opening.trains[k];
  const course = trace.courses[id];
  if (!train || !course) return null;
  const at = whereIs(course, t);
  const volts = sampled(trace, trace.volts[k], t);
  const last = latest(trace, t, (e) => e.train === id);
  const span = at?.spans.findLast((s) => s[3] <= at.s + 0.01);
  return (
    <Card title={train.name}>
      <p className="mt-1 text-xs">
        {span ? `${trackName(span[0])} · ` : ""}
        {at && at.v > 0.5 ? `${Math.round(at.v)} mm/s` : "stands"} ·{" "}
        {volts === null || volts === undefined ? "no volts" : `${volts.toFixed(1)} V`}
      </p>
      <button
        type="button"
        className="btn mt-1.5 py-0.5 text-xs"
        aria-pressed={follow === id}
        onClick={() => useEvening.setState({ follow: follow === id ? null : id })}
      >
        {follow === id ? "Do not follow" : "Follow it"}
      </button>
      {last ? (
        <Why entries={chain(trace, last)} />
      ) : (
        <p className="mt-1 text-mute text-xs">Nothing to tell of it yet.</p>
      )}
    </Card>
  );
}

function AboutDevice({ device, t }: { device: string; t: number }) {
  const trace = useEvening((s) => s.trace);
  const stands = useStands();
  if (!trace) return null;
  const k = trace.opening.devices.findIndex((d) => d.id === device);
  const it = trace.opening.devices[k];
  if (!it) return null;
  const amps = sampled(trace, trace.amps[k], t) ?? 0;
  const last = latest(trace, t, (e) => e.device === device);
  return (
    <Card title={it.name}>
      <p className="mt-1 text-xs">
        {stands?.open.has(device) ? "open · " : stands?.turned.has(device) ? "turned over · " : ""}
        {amps.toFixed(2)} A{it.trip ? ` of ${it.trip} A, acts after ${Math.round(it.after * 1000)} ms` : ""}
      </p>
      {last ? <Why entries={chain(trace, last)} /> : <p className="mt-1 text-mute text-xs">It has not acted so far.</p>}
    </Card>
  );
}

function AboutHead({ signal }: { signal: string }) {
  const id = useLayout((s) => s.state?.id);
  const name = useLayout((s) => s.state?.document.signals?.[signal]?.name ?? signal);
  const stands = useStands();
  const trace = useEvening((s) => s.trace);
  const now = useEvening((s) => Math.floor(s.now));
  const [reasons, setReasons] = useState<string[]>([]);
  const aspect = stands?.heads[signal];
  const key = `${signal} ${aspect} ${stands?.next}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for everything that is sent
  useEffect(() => {
    if (!id || !stands) return;
    let on = true;
    void answer(
      api.POST("/api/layouts/{layout_id}/rehearse/why", {
        params: { path: { layout_id: id } },
        body: { signal, lies: stands.lies, lit: [...stands.lit] },
      }),
    )
      .then((got) => on && setReasons(got.reasons))
      .catch(() => on && setReasons([]));
    return () => {
      on = false;
    };
  }, [id, key]);
  const last = trace ? latest(trace, now, (e) => e.head === signal) : undefined;
  return (
    <Card title={`${name}: ${aspect ?? "dark"}`}>
      <ul className="mt-1 grid gap-1 text-xs">
        {reasons.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      {trace && last ? <Why entries={chain(trace, last)} /> : null}
    </Card>
  );
}
