import { useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere, useWiringSchools } from "../../api/queries";
import { useStreamed } from "../../api/useStreamed";
import { Preview } from "../../findings/Preview";
import { Progress } from "../../parts/Progress";
import { Choice } from "../../parts/Typed";
import { useBench } from "../../store/bench";

/** The whole railroad wired by the school chosen: feeders, terminals, buses and plugs, as one previewed change. */
export function LayIt() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const { data: schools } = useWiringSchools();
  const [spacing, setSpacing] = useState("by rail code");
  const [terminal, setTerminal] = useState("screw strip");
  const [make, setMake] = useState("twisted");
  const [way, setWay] = useState("under the track");
  const [anew, setAnew] = useState(false);
  const [laid, setLaid] = useState<Shape["Laid"] | null>(null);
  const { done, wrong, start, stop } = useStreamed<Shape["Laid"]>();
  const lay = async () => {
    const query = new URLSearchParams({ revision: String(revision), spacing, terminal, make, way, anew: String(anew) });
    setLaid(await start(`/api/layouts/${id}/laying?${query}`));
  };
  return (
    <section aria-label="Lay it" className="text-[12px]" data-testid="lay">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void lay();
        }}
      >
        <Choice
          label="Feeders"
          value={spacing}
          options={schools?.spacings.map((s) => s.name) ?? [spacing]}
          onChange={setSpacing}
        />
        <Choice label="Terminals" value={terminal} options={schools?.terminals ?? [terminal]} onChange={setTerminal} />
        <Choice label="Buses lie" value={way} options={schools?.ways.map((w) => w.name) ?? [way]} onChange={setWay} />
        <Choice label="The two wires lie" value={make} options={schools?.makes ?? [make]} onChange={setMake} />
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={anew} onChange={(event) => setAnew(event.target.checked)} />
          Lay again what is wired already
        </label>
        <button type="submit" className="btn-main" disabled={done !== null}>
          {done ? "Laying…" : "Lay it"}
        </button>
        <Progress done={done} onStop={stop} />
      </form>
      <p className="mt-2 max-w-2xl text-mute">
        {schools?.spacings.find((s) => s.name === spacing)?.why} {schools?.ways.find((w) => w.name === way)?.why}{" "}
        Feeders that are there stay where they are. Buses stay on the benchwork, go round what stands below it, cross
        onto boards that lift out by plugs, and never reach their end by a long way round. What you draw or move
        afterwards stays.
      </p>
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide">
          {wrong}
        </p>
      ) : null}
      {laid ? (
        <Preview
          title={`${laid.words.join("; ")}. Then size it.`}
          decides={`${laid.words.join("; ")}.`}
          mend={laid.change}
          onClose={() => setLaid(null)}
          onMade={() => set({ look: "volts" })}
        />
      ) : null}
    </section>
  );
}
