import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { throwTo, useCabs } from "./queries";

const SOURCES = {
  cab: { kind: "cab" },
  "transformer output": { kind: "transformer output" },
  "digital station": { kind: "station", gives: "dcc" },
  booster: { kind: "booster", gives: "dcc" },
} as const;

/** Every switch with the ways it may lie: throw it here or on the plan. */
export function Switches() {
  const { data } = useCabs();
  const scene = useBench((s) => s.scene);
  const show = useBench((s) => s.show);
  const said = useLayout((s) => (scene ? s.state?.document.scenes?.[scene] : undefined));
  const draw = useLayout((s) => s.draw);
  const last = useLayout((s) => Object.values(s.state?.document.devices ?? {}).at(-1))?.at;
  if (!data) return <p className="p-3 text-mute text-xs">Looking at the switches…</p>;
  const place = async (word: string) => {
    const source = SOURCES[word as keyof typeof SOURCES];
    if (!source) return;
    const { made } = await draw({ act: "source", ...source, x: (last?.x ?? 0) + 300, y: last?.y ?? 0 });
    if (made) show(made, null);
  };
  const free = data.selectors.filter((s) => !s.lever);
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Switches" data-testid="switches">
      <ul className="mb-2.5 flex flex-wrap gap-x-4 gap-y-1">
        {data.sources.map((s) => (
          <li key={s.device} className="flex items-center gap-1.5">
            <i aria-hidden="true" className="block h-3 w-5 rounded-sm" style={{ background: s.ink }} />
            <button type="button" className="act" onClick={() => show({ kind: "device", id: s.device }, null)}>
              {s.name}
            </button>
            <span className="text-mute">
              {s.control_text}, {bound(s.volts_text)}, {bound(s.amps_text)} · drives {bound(s.drives_text)}
            </span>
          </li>
        ))}
        <li>
          <select
            aria-label="One more source"
            className="field w-auto"
            value=""
            onChange={(e) => void place(e.target.value)}
          >
            <option value="">one more source…</option>
            {Object.keys(SOURCES).map((word) => (
              <option key={word}>{word}</option>
            ))}
          </select>
        </li>
      </ul>
      {free.length ? (
        <>
          {said?.selectors && Object.keys(said.selectors).length ? (
            <p className="mb-1.5 text-mute text-xs">Thrown for the scene “{said.name}”; the others are as they lie.</p>
          ) : null}
          <div className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-6 gap-y-1">
            {free.map((s) => (
              <div
                key={s.device}
                className="flex min-w-0 items-center gap-2 border-line border-b py-1"
                data-switch={s.device}
              >
                <button
                  type="button"
                  className="act min-w-0 flex-1 truncate text-left"
                  title={`${s.name}, ${s.made}; ${s.length_text} of track`}
                  onClick={() => show({ kind: "device", id: s.device }, null)}
                >
                  {s.block}
                </button>
                <div
                  role="radiogroup"
                  aria-label={s.name}
                  className="flex overflow-hidden rounded-md border border-line"
                >
                  {[{ circuit: null, name: "off", ink: "var(--mute)" }, ...s.ways].map((way) => {
                    const on = (s.lies ?? null) === way.circuit;
                    return (
                      // biome-ignore lint/a11y/useSemanticElements: one of a row of buttons, like the lever it stands for
                      <button
                        key={way.circuit ?? "off"}
                        type="button"
                        role="radio"
                        aria-checked={on}
                        className={`border-line border-l px-2 py-0.5 text-[11.5px] first:border-l-0 ${on ? (way.circuit ? "font-semibold text-white" : "bg-strong font-semibold text-onstrong") : "bg-paper"}`}
                        style={on && way.circuit ? { background: way.ink } : undefined}
                        onClick={() => void throwTo(s.device, way.circuit)}
                      >
                        {way.name}
                      </button>
                    );
                  })}
                </div>
              </div>
            ))}
          </div>
          {data.selectors.some((s) => s.lever) ? (
            <p className="mt-2 text-mute text-xs">
              On the same levers:{" "}
              {data.selectors
                .filter((s) => s.lever)
                .map((s) => `${s.block} ${s.lies ? "on" : "off"} (${s.lever})`)
                .join(", ")}
              .
            </p>
          ) : null}
        </>
      ) : (
        <p className="max-w-2xl rounded-lg border border-line bg-paper p-2.5">
          No switch chooses between sources. With two cabs or more, <b>Block it for cabs</b> beside the plan cuts the
          line into blocks and gives each a switch. A digital railroad wants none.
        </p>
      )}
      {data.meetings.length || data.bare_gaps.length ? (
        <ul className="mt-2.5 grid gap-0.5 text-xs">
          {[...data.bare_gaps, ...data.meetings].map((m) => (
            <li key={`${m.track}:${m.at}`} className={m.grave ? "text-oxide" : "text-mute"}>
              <button
                type="button"
                className="act"
                onClick={() => show({ kind: "track", id: m.track }, { track: m.track, at: m.at })}
              >
                {m.words}
              </button>
            </li>
          ))}
        </ul>
      ) : null}
    </section>
  );
}
