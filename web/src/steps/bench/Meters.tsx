import { useState } from "react";
import type { Shape } from "../../api/client";
import { newId } from "../../store/proving";
import { useKeepMeter } from "./queries";

type Props = { meters: Shape["MeterShape"][]; kinds: Shape["KindShape"][] };

/** The club's meters, each with what its kind shows of the track and the factor it was given once. */
export function Meters({ meters, kinds }: Props) {
  const keep = useKeepMeter();
  const [name, setName] = useState("");
  const [setting, setSetting] = useState(kinds[0]?.setting ?? "dc");
  const [bridge, setBridge] = useState("");
  const [shown, setShown] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const kind = kinds.find((k) => k.setting === setting);
  const number = (text: string) => Number(text.replace(",", ".").replace(/\s*V$/i, ""));
  const add = async () => {
    let factor: number | null = null;
    if (bridge.trim() || shown.trim()) {
      factor = number(bridge) / number(shown);
      if (!(factor > 0.3 && factor < 3))
        return setWrong("Its factor would be beyond 0.3 to 3: its band does not reach, use the bridge.");
    }
    try {
      await keep.mutateAsync({ id: newId("meter"), name, setting: setting as never, factor, note: "" });
      setName("");
      setBridge("");
      setShown("");
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <details className="mt-4 text-xs">
      <summary className="cursor-pointer text-link">Meters of the club ({meters.length})</summary>
      <ul className="my-1.5">
        {meters.map((m) => (
          <li key={m.id} className="border-line border-b py-1">
            <b>{m.name}</b>, {m.setting_name}
            {m.factor ? `, × ${m.factor.toFixed(3)}` : ", never held against a bridge: ± 12 %"}
          </li>
        ))}
      </ul>
      <div className="grid grid-cols-2 gap-2">
        <label className="block">
          <span className="text-mute">Called</span>
          <input className="field py-0.5" value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <label className="block">
          <span className="text-mute">Set to</span>
          <select className="field py-0.5" value={setting} onChange={(e) => setSetting(e.target.value)}>
            {kinds.map((k) => (
              <option key={k.setting} value={k.setting}>
                {k.name}
              </option>
            ))}
          </select>
        </label>
        {setting.startsWith("ac") ? (
          <>
            <label className="block">
              <span className="text-mute">Volts at the source, by bridge</span>
              <input className="field figure py-0.5" value={bridge} onChange={(e) => setBridge(e.target.value)} />
            </label>
            <label className="block">
              <span className="text-mute">What it shows there</span>
              <input className="field figure py-0.5" value={shown} onChange={(e) => setShown(e.target.value)} />
            </label>
          </>
        ) : null}
      </div>
      <p className="mt-1 text-mute">{kind ? `${kind.name}: ${kind.why}.` : ""}</p>
      {wrong ? (
        <p role="alert" className="text-oxide">
          {wrong}
        </p>
      ) : null}
      <button type="button" className="btn mt-1.5" disabled={!name.trim()} onClick={() => void add()}>
        Add this meter
      </button>
    </details>
  );
}
