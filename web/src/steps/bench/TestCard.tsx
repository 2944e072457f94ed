import { ArrowLeft, ArrowRight } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { newId, useProving } from "../../store/proving";
import { Band } from "./Band";
import { Meters } from "./Meters";
import { type Test, useSendReading } from "./queries";
import { StandIn } from "./StandIn";
import { SAYS, TONE } from "./states";
import { useChoice } from "./TestList";

const EXAMPLE: Record<string, string> = { V: "240 mV", A: "2.1 A", Ω: "0.4, or OL", yes: "yes, or trips at once" };

/** The test in hand: where, how, what is sound, and the field its reading is typed into. */
export function TestCard() {
  const { data, tests } = useChoice();
  const key = useProving((s) => s.test);
  const set = useProving((s) => s.set);
  const show = useBench((s) => s.show);
  const test = data?.tests.find((t) => t.key === key) ?? null;
  const go = (by: number) => {
    const now = tests.findIndex((t) => t.key === key);
    const next = tests[now < 0 ? 0 : now + by];
    if (!next) return;
    set({ test: next.key });
    if (next.track !== null && next.at !== null) show(null, { track: next.track, at: next.at }, [next.track]);
  };
  if (!data) return null;
  if (!test)
    return (
      <div className="p-3.5 text-[12.8px]">
        <p className="mb-2">
          Trains do not prove wiring: most joints that come open stop nobody until a second one does. A meter proves it.
        </p>
        <p className="mb-3 text-mute">
          Choose a test from the list or on the plan, read the meter, type what it shows. Every reading is kept, held
          against what this very place should read, and taught to the model.
        </p>
        <button type="button" className="btn" disabled={!tests.length} onClick={() => go(1)}>
          Begin with the first
        </button>
        <Meters meters={data.meters} kinds={data.kinds} />
        <StandIn kinds={data.kinds} />
      </div>
    );
  return (
    <article className="p-3.5 text-[12.8px]" aria-label={test.title} data-testid="test">
      <header className="mb-2 flex items-start gap-1.5">
        <h2 className="min-w-0 flex-1 font-bold text-sm">{bound(test.title)}</h2>
        <button type="button" className="btn px-1.5 py-1" aria-label="Test before" onClick={() => go(-1)}>
          <ArrowLeft size={14} aria-hidden="true" />
        </button>
        <button type="button" className="btn px-1.5 py-1" aria-label="Next test" onClick={() => go(1)}>
          <ArrowRight size={14} aria-hidden="true" />
        </button>
      </header>
      <dl className="grid grid-cols-[62px_minmax(0,1fr)] gap-x-2 gap-y-1.5">
        <dt className="text-mute">Where</dt>
        <dd>{bound(test.where)}</dd>
        <dt className="text-mute">First</dt>
        <dd>{bound(test.prepare)}</dd>
        <dt className="text-mute">Meter</dt>
        <dd>{test.settings.join(", or ")}</dd>
        <dt className="text-mute">Sound</dt>
        <dd>
          <b>{bound(test.band || test.foretold)}</b>
          {test.band && test.value !== null ? (
            <span className="text-mute">, {bound(test.foretold)} foretold</span>
          ) : null}
        </dd>
        <dt className="text-mute">Else</dt>
        <dd className="first-letter:uppercase">{bound(test.outside)}</dd>
      </dl>
      <Band
        low={test.low}
        high={test.high}
        value={test.value}
        read={test.last?.value ?? null}
        words={`${test.band} is sound, ${test.foretold} is foretold`}
      />
      {test.caution ? (
        <p className="mt-1 rounded-md bg-amber/20 px-2 py-1 text-xs">
          {test.caution} Local codes and licensed practice come first.
        </p>
      ) : null}
      <Entry key={test.key} test={test} meters={data.meters} onNext={() => go(1)} />
      <Meters meters={data.meters} kinds={data.kinds} />
      <StandIn kinds={data.kinds} />
    </article>
  );
}

type EntryProps = { test: Test; meters: { id: string; name: string; setting_name: string }[]; onNext: () => void };

function Entry({ test, meters, onNext }: EntryProps) {
  const send = useSendReading();
  const meter = useProving((s) => s.meter);
  const set = useProving((s) => s.set);
  const [text, setText] = useState("");
  const [amps, setAmps] = useState("");
  const [before, setBefore] = useState("");
  const [note, setNote] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    field.current?.focus({ preventScroll: true });
  }, []);
  const last = test.last;
  const keep = async (shown: string) => {
    setWrong(null);
    const drawn = amps.trim() ? Number(amps.replace(",", ".").replace(/\s*A$/i, "")) : null;
    if (drawn !== null && !Number.isFinite(drawn)) return setWrong(`“${amps}” is no number of amps.`);
    try {
      await send.mutateAsync({ id: newId("reading"), test: test.key, shown, meter, amps: drawn, before, note });
      setText("");
      setNote("");
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  const known = meters.some((m) => m.id === meter) ? meter : "";
  return (
    <div className="mt-3 rounded-lg border border-line p-2.5">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim()) void keep(text);
          else if (last) onNext();
        }}
      >
        <label className="block">
          <span className="text-[11.5px] text-mute">What it shows</span>
          <input
            ref={field}
            className="field figure text-[15px]"
            value={text}
            placeholder={EXAMPLE[test.unit]}
            autoComplete="off"
            spellCheck={false}
            aria-invalid={wrong !== null}
            aria-describedby={wrong ? "reading-wrong" : undefined}
            onChange={(e) => {
              setText(e.target.value);
              setWrong(null);
            }}
          />
        </label>
        {wrong ? (
          <p id="reading-wrong" role="alert" className="mt-0.5 text-oxide text-xs">
            {wrong}
          </p>
        ) : null}
        {test.unit === "yes" ? (
          <div className="mt-1.5 flex gap-2">
            <button type="button" className="btn flex-1" onClick={() => void keep("yes")}>
              As it should be
            </button>
            <button type="button" className="btn flex-1" onClick={() => void keep("no")}>
              Not so
            </button>
          </div>
        ) : (
          <div className="mt-1.5 grid grid-cols-2 gap-2">
            <label className="block">
              <span className="text-[11.5px] text-mute">Meter</span>
              <select className="field py-0.5" value={known} onChange={(e) => set({ meter: e.target.value })}>
                <option value="">as the test says</option>
                {meters.map((m) => (
                  <option key={m.id} value={m.id}>
                    {m.name}: {m.setting_name}
                  </option>
                ))}
              </select>
            </label>
            {test.kind === "load" ? (
              <label className="block">
                <span className="text-[11.5px] text-mute">Amps drawn</span>
                <input
                  className="field figure"
                  value={amps}
                  placeholder="1"
                  onChange={(e) => setAmps(e.target.value)}
                />
              </label>
            ) : null}
            {test.kind === "load" ? (
              <label className="col-span-2 block">
                <span className="text-[11.5px] text-mute">Volts before, if it reads volts and not what is lost</span>
                <input className="field figure" value={before} onChange={(e) => setBefore(e.target.value)} />
              </label>
            ) : null}
          </div>
        )}
        <label className="mt-1.5 block">
          <span className="text-[11.5px] text-mute">Note</span>
          <input className="field" value={note} onChange={(e) => setNote(e.target.value)} />
        </label>
        <div className="mt-2 flex items-center gap-2">
          <button type="submit" className="btn btn-go" disabled={send.isPending}>
            {text.trim() || !last ? "Keep it" : "On to the next"}
          </button>
          <span className="text-[11px] text-mute">Enter keeps it; Enter again goes on.</span>
        </div>
      </form>
      {last ? (
        <p className="mt-2 border-line border-t pt-2" role="status" data-testid="verdict">
          <b className={TONE[test.state]}>{last.shown}</b>. {bound(last.verdict)}
          {test.state === "changed" || test.state === "due" ? ` It is ${SAYS[test.state]}: read it again.` : ""}
          <span className="block text-[11px] text-mute">
            {last.who ? `${last.who}, ` : ""}
            {new Date(last.done).toLocaleString()}, change {last.revision}
            {last.note ? `: ${last.note}` : ""}{" "}
            <button
              type="button"
              className="act"
              onClick={() =>
                void send.mutateAsync({
                  id: newId("reading"),
                  test: test.key,
                  shown: "taken back",
                  ...({ withdraws: last.id } as object),
                })
              }
            >
              Take it back
            </button>
          </span>
        </p>
      ) : null}
    </div>
  );
}
