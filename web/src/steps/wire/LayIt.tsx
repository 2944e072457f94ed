import { useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { streamed } from "../../api/stream";
import { useBench } from "../../store/bench";
import { Preview } from "./Preview";

const SPACINGS = ["by rail code", "every 3 ft", "every piece of rail"] as const;
const TERMINALS = ["screw strip", "lever", "tap", "soldered"] as const;
const MAKES = ["twisted", "paired cable", "side by side", "apart"] as const;
const WHY: Record<(typeof SPACINGS)[number], string> = {
  "by rail code": "The house rule: light rail closer than heavy. Common where rail is code 70 and over.",
  "every 3 ft": "Never farther than a yard: for light rail, and for those who trust no joiner.",
  "every piece of rail": "Each length its own feeder: too few is the only mistake. The most soldering.",
};

/** The whole railroad wired by the school chosen: feeders, terminals, buses and plugs, as one previewed change. */
export function LayIt() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const [spacing, setSpacing] = useState<(typeof SPACINGS)[number]>("by rail code");
  const [terminal, setTerminal] = useState<string>("screw strip");
  const [make, setMake] = useState<string>("twisted");
  const [anew, setAnew] = useState(false);
  const [done, setDone] = useState<[number, number] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [laid, setLaid] = useState<Shape["Laid"] | null>(null);
  const lay = async () => {
    setWrong(null);
    setDone([0, 0]);
    const query = new URLSearchParams({ revision: String(revision), spacing, terminal, make, anew: String(anew) });
    try {
      setLaid(
        await streamed<Shape["Laid"], { done?: number; total?: number }>(`/api/layouts/${id}/laying?${query}`, (s) =>
          setDone([s.done ?? 0, s.total ?? 0]),
        ),
      );
    } catch (error) {
      setWrong((error as Error).message);
    }
    setDone(null);
  };
  const choice = <T extends string>(label: string, value: T, options: readonly T[], onChange: (v: T) => void) => (
    <label className="flex flex-col text-[11.5px] text-mute">
      {label}
      <select
        className="field mt-0.5 w-auto text-ink"
        value={value}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {options.map((o) => (
          <option key={o}>{o}</option>
        ))}
      </select>
    </label>
  );
  return (
    <section aria-label="Lay it" className="text-[12px]" data-testid="lay">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void lay();
        }}
      >
        {choice("Feeders", spacing, SPACINGS, setSpacing)}
        {choice("Terminals", terminal, TERMINALS, setTerminal)}
        {choice("The two wires lie", make, MAKES, setMake)}
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={anew} onChange={(event) => setAnew(event.target.checked)} />
          Lay again what is wired already
        </label>
        <button type="submit" className="btn-main" disabled={done !== null}>
          {done ? "Laying…" : "Lay it"}
        </button>
        {done ? <progress className="mb-2 h-1.5 w-28" value={done[0]} max={Math.max(done[1], 1)} /> : null}
      </form>
      <p className="mt-2 max-w-2xl text-mute">
        {WHY[spacing]} Feeders that are there stay where they are. Buses follow the track on its benchwork, cross onto
        boards that lift out by plugs, and never reach their end by a long way round. What you draw or move afterwards
        stays.
      </p>
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide">
          {wrong}
        </p>
      ) : null}
      {laid ? (
        <Preview
          title={`${laid.words.join("; ")}. Then size it.`}
          mend={laid.change}
          onClose={() => setLaid(null)}
          onMade={() => set({ look: "volts" })}
        />
      ) : null}
    </section>
  );
}
