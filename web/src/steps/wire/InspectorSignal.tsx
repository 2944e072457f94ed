import { useDetection, useMoment, useSignals } from "../../api/queries";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { Head as HeadGlyph } from "../../plan/Heads";
import { type CardProps, Head, Remove, useSet } from "./card";

const KINDS = ["colour light", "searchlight", "semaphore", "dwarf"] as const;
const ASPECTS = ["2", "3"] as const;
const HEADS = ["1", "2"] as const;
const SIDES = ["right", "left"] as const;
const DETECTORS = ["current transformer", "diode drop", "opto", "isolated rail"] as const;
const DRIVES = ["lamps", "turnouts", "buttons"] as const;
const COMMON = ["anode", "cathode"] as const;

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

/** A whole number; what is not one goes to the server as it is, which says why. */
function Whole({
  label,
  value,
  onTake,
}: {
  label: string;
  value: number;
  onTake: (v: unknown) => Promise<string | null>;
}) {
  return (
    <Typed
      label={label}
      kind="text"
      shown={String(value)}
      onTake={(v) => onTake(Number.isInteger(Number(v)) ? Number(v) : v)}
    />
  );
}

/** Which accessory supply a board's electronics run from. */
function RunsFrom({
  layout,
  supply,
  onTake,
}: {
  layout: CardProps["layout"];
  supply: string | null | undefined;
  onTake: (supply: string | null, words: string) => void;
}) {
  const buses = Object.entries(layout.circuits ?? {}).filter(([, c]) => c.purpose === "accessory");
  if (!buses.length) return null;
  return (
    <Choice
      label="Runs from"
      value={layout.circuits?.[supply ?? ""]?.name ?? "not said"}
      options={["not said", ...buses.map(([, c]) => c.name)]}
      onChange={(v) => onTake(buses.find(([, c]) => c.name === v)?.[0] ?? null, `runs from ${v}`)}
    />
  );
}

/** A board of detector channels. */
export function Detector({ id, layout }: CardProps) {
  const board = layout.detectors?.[id];
  const set = useSet(`/detectors/${id}`, board?.name ?? id);
  const { data } = useDetection();
  if (!board) return null;
  const mine = (data?.sections ?? []).filter((s) => s.board === id);
  return (
    <>
      <Head title={board.name}>
        {board.kind}, {new Set(mine.map((s) => s.channel)).size} of {board.channels} channels used
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={board.name} onTake={(v) => set("name", v, String(v))} />
        <Choice
          label="Kind"
          value={board.kind ?? "current transformer"}
          options={DETECTORS}
          onChange={(v) => void set("kind", v, v)}
        />
        <Whole label="First address" value={board.address ?? 1} onTake={(v) => set("address", v, `from ${v}`)} />
        <Whole label="Channels" value={board.channels ?? 8} onTake={(v) => set("channels", v, `${v} channels`)} />
        <Typed
          label="Answers from"
          kind="current"
          shown={`${+((board.threshold ?? 0.005) * 1000).toFixed(2)} mA`}
          onTake={(v, t) => set("threshold", v, `answers from ${t}`)}
        />
        <Typed
          label="Takes, at any current"
          kind="volts"
          shown={board.drop ? `${board.drop} V` : ""}
          placeholder="nothing"
          clearable
          onTake={(v, t) => set("drop", v ?? 0, `takes ${t || "nothing"}`)}
        />
        <Typed
          label="In series"
          kind="ohms"
          shown={`${+((board.ohms ?? 0.01) * 1000).toFixed(1)} mΩ`}
          onTake={(v, t) => set("ohms", v, t)}
        />
        <RunsFrom layout={layout} supply={board.supply} onTake={(v, words) => void set("supply", v, words)} />
      </div>
      <label className="mt-2 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={board.measured ?? false}
          onChange={(e) => void set("measured", e.target.checked, e.target.checked ? "measured" : "a guess")}
        />
        Its figures were measured or read off its sheet
      </label>
      <ul className="figure mt-1.5 text-[11px]">
        {[...mine]
          .sort((a, b) => (a.channel ?? 0) - (b.channel ?? 0))
          .map((s) => (
            <li key={s.number}>
              {s.channel} → {s.address}: {s.name}
            </li>
          ))}
      </ul>
      <div className="mt-1.5">
        <Remove kind="detector" id={id} words="Take it away with its wire" />
      </div>
    </>
  );
}

/** A board of outputs for lamps or motors, or of inputs for buttons. */
export function Driver({ id, layout }: CardProps) {
  const board = layout.drivers?.[id];
  const set = useSet(`/drivers/${id}`, board?.name ?? id);
  const { data } = useSignals();
  if (!board) return null;
  const mine = data?.drivers.find((d) => d.id === id);
  return (
    <>
      <Head title={board.name}>
        {board.drives}, {mine?.used ?? 0} of {board.outputs} {board.drives === "buttons" ? "inputs" : "outputs"} used,
        asks {mine?.asks_text ?? "—"}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={board.name} onTake={(v) => set("name", v, String(v))} />
        <Choice
          label="Drives"
          value={board.drives ?? "lamps"}
          options={DRIVES}
          onChange={(v) => void set("drives", v, v)}
        />
        <Whole label="First address" value={board.address ?? 1} onTake={(v) => set("address", v, `from ${v}`)} />
        <Whole
          label={board.drives === "buttons" ? "Inputs" : "Outputs"}
          value={board.outputs ?? 16}
          onTake={(v) => set("outputs", v, `${v} outputs`)}
        />
        <Choice
          label="Lamps share the"
          value={board.common ?? "anode"}
          options={COMMON}
          onChange={(v) => void set("common", v, `common ${v}`)}
        />
        <Typed
          label="Gives its lamps"
          kind="volts"
          shown={`${board.volts ?? 12} V`}
          onTake={(v, t) => set("volts", v, t)}
        />
        <Typed
          label="One output gives"
          kind="current"
          shown={`${+((board.most ?? 0.02) * 1000).toFixed(1)} mA`}
          onTake={(v, t) => set("most", v, `up to ${t}`)}
        />
        <RunsFrom layout={layout} supply={board.supply} onTake={(v, words) => void set("supply", v, words)} />
      </div>
      <ul className="figure mt-1.5 text-[11px]">
        {(mine?.rows ?? []).map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      <div className="mt-1.5">
        <Remove kind="driver" id={id} words="Take it away" />
      </div>
    </>
  );
}
