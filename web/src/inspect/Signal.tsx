import { useMoment, useSignals } from "../api/queries";
import { Choice, Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { Head as HeadGlyph } from "../plan/Heads";
import { type CardProps, Head, Remove, useSet } from "./card";

const KINDS = ["colour light", "searchlight", "semaphore", "dwarf"] as const;

const ASPECTS = ["2", "3"] as const;

const HEADS = ["1", "2"] as const;

const SIDES = ["right", "left"] as const;

/** A signal: what it shows just now and why, where it stands, what drives it. */
export function Signal({ id, layout }: CardProps) {
  const signal = layout.signals?.[id];
  const set = useSet(`/signals/${id}`, signal?.name ?? id);
  const { data } = useSignals();
  const moment = useMoment();
  if (!signal) return null;
  const metric = layout.brief?.units === "metric";
  const shown = moment?.shows[id];
  const drawn = data?.signals.find((s) => s.id === id);
  const track = layout.tracks?.[signal.track];
  const ahead = signal.towards === "b" ? track?.b : track?.a;
  const node = ahead ? (layout.nodes?.[ahead.node]?.name ?? ahead.node) : "";
  return (
    <>
      <Head title={`Signal ${signal.name}`}>
        {signal.kind} on {track?.name}, for trains towards {node}
      </Head>
      {shown ? (
        <div className="mb-2 flex gap-2 rounded-lg border border-line bg-card p-2" data-testid="why">
          <svg width="18" height={18 * shown.lights.length} aria-hidden="true" className="shrink-0">
            {shown.lights.map((light, k) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: heads have no name but their place
              <g key={k} transform={`translate(9 ${9 + 18 * k})`}>
                <HeadGlyph light={light} r={7.5} />
              </g>
            ))}
          </svg>
          <div className="min-w-0 text-xs">
            <b>{shown.aspect[0]?.toUpperCase() + shown.aspect.slice(1)}.</b> {shown.means}
            <ul className="mt-0.5 list-disc pl-4 text-mute">
              {shown.reasons.map((r) => (
                <li key={r}>{r}</li>
              ))}
            </ul>
            {shown.dark ? <p className="text-mute">Dark: no train is near.</p> : null}
          </div>
        </div>
      ) : null}
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={signal.name} onTake={(v) => set("name", v, String(v))} />
        <Choice
          label="Kind"
          value={signal.kind ?? "colour light"}
          options={KINDS}
          onChange={(v) => void set("kind", v, v)}
        />
        <Choice
          label="Aspects"
          value={String(signal.aspects ?? 3) as "3"}
          options={ASPECTS}
          onChange={(v) => void set("aspects", Number(v), `${v} aspects`)}
        />
        <Choice
          label="Heads"
          value={String(signal.heads ?? 1) as "1"}
          options={HEADS}
          onChange={(v) => void set("heads", Number(v), `${v} heads`)}
        />
        <Typed
          label="From the A end"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={metric ? `${signal.at.toFixed(0)} mm` : `${+(signal.at / 25.4).toFixed(2)} in`}
          onTake={(v, t) => set("at", v, `at ${t}`)}
        />
        <Choice
          label="Stands to the"
          value={signal.side ?? "right"}
          options={SIDES}
          onChange={(v) => void set("side", v, `to the ${v}`)}
        />
        <Typed
          label="A lamp wants"
          kind="volts"
          shown={`${signal.lamp_volts ?? 2} V`}
          onTake={(v, t) => set("lamp_volts", v, t)}
        />
        <Typed
          label="and draws"
          kind="current"
          shown={`${+((signal.lamp_amps ?? 0.008) * 1000).toFixed(2)} mA`}
          onTake={(v, t) => set("lamp_amps", v, t)}
        />
        <Typed
          label="Cable by tape"
          kind="length"
          shown={signal.tape ? lengthText(signal.tape, metric) : ""}
          placeholder="along the boards"
          clearable
          onTake={(v, t) => set("tape", v, t || "as reckoned")}
        />
      </div>
      <p className="mt-1.5 text-mute text-xs">
        {signal.driver
          ? `${layout.drivers?.[signal.driver]?.name}: ${drawn?.lamps_text}. Resistor: ${drawn?.resistor_text}.`
          : "On no driver output yet: Signal it gives outputs to all that have none."}
      </p>
      <div className="mt-1.5 flex flex-wrap gap-x-3">
        <button
          type="button"
          className="act"
          onClick={() => void set("towards", signal.towards === "b" ? "a" : "b", "faces the other way")}
        >
          Face it the other way
        </button>
        <Remove kind="signal" id={id} words="Take it away" />
      </div>
    </>
  );
}
