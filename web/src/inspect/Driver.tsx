import { useSignals } from "../api/queries";
import { Choice, Typed } from "../parts/Typed";
import { RunsFrom, Whole } from "./boards";
import { type CardProps, Head, Remove, useSet } from "./card";
import { Settings } from "./Settings";

const DRIVES = ["lamps", "turnouts", "buttons", "hand controllers"] as const;
const WAYS = { lamps: "Outputs", turnouts: "Outputs", buttons: "Inputs", "hand controllers": "Sockets" } as const;

const COMMON = ["anode", "cathode"] as const;

/** A board of outputs for lamps or motors, of inputs for buttons, or of sockets for hand controllers. */
export function Driver({ id, layout }: CardProps) {
  const board = layout.drivers?.[id];
  const set = useSet(`/drivers/${id}`, board?.name ?? id);
  const { data } = useSignals();
  if (!board) return null;
  const drives = board.drives ?? "lamps";
  const sockets = drives === "hand controllers";
  const mine = data?.drivers.find((d) => d.id === id);
  return (
    <>
      <Head title={board.name}>
        {sockets
          ? `${board.outputs} sockets for hand controllers`
          : `${drives}, ${mine?.used ?? 0} of ${board.outputs} ${WAYS[drives].toLowerCase()} used, asks ${mine?.asks_text ?? "—"}`}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={board.name} onTake={(v) => set("name", v, String(v))} />
        <Choice label="Drives" value={drives} options={DRIVES} onChange={(v) => void set("drives", v, v)} />
        {sockets ? null : (
          <Whole label="First address" value={board.address ?? 1} onTake={(v) => set("address", v, `from ${v}`)} />
        )}
        <Whole
          label={WAYS[drives]}
          value={board.outputs ?? 16}
          onTake={(v) => set("outputs", v, `${v} ${WAYS[drives].toLowerCase()}`)}
        />
        {drives === "lamps" ? (
          <>
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
          </>
        ) : null}
        <RunsFrom layout={layout} supply={board.supply} onTake={(v, words) => void set("supply", v, words)} />
      </div>
      <Settings path={`/drivers/${id}`} name={board.name} settings={board.settings ?? ""} />
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
