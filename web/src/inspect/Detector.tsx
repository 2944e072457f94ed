import { useDetection } from "../api/queries";
import { Choice, Typed } from "../parts/Typed";
import { RunsFrom, Whole } from "./boards";
import { type CardProps, Head, Remove, useSet } from "./card";
import { Settings } from "./Settings";

const DETECTORS = ["current transformer", "diode drop", "opto", "isolated rail"] as const;

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
      <Settings path={`/detectors/${id}`} name={board.name} settings={board.settings ?? ""} />
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
