import { useState } from "react";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";

/** One more selector by hand: what it chooses from, and where it stands. */
export function NewSelector() {
  const layout = useLayout((s) => s.state?.document);
  const draw = useLayout((s) => s.draw);
  const [name, setName] = useState("");
  const [inputs, setInputs] = useState<string[]>([]);
  const [wrong, setWrong] = useState<string | null>(null);
  const circuits = Object.entries(layout?.circuits ?? {}).filter(([, c]) => c.purpose !== "accessory");
  const panel = Object.keys(layout?.panels ?? {})[0] ?? null;
  const source = Object.values(layout?.devices ?? {})[0];
  const add = async () => {
    if (!name.trim()) return setWrong("Give the block a name.");
    if (!inputs.length) return setWrong("Say what it chooses from.");
    const place = { x: (source?.at.x ?? 0) + 200, y: (source?.at.y ?? 0) + 200 };
    const { made, why } = await draw({ act: "selector", name: name.trim(), inputs, panel, ...place });
    setWrong(why);
    if (why) return;
    setName("");
    setInputs([]);
    if (made) useBench.getState().select(made);
  };
  return (
    <Fold title="One more switch" open={false}>
      <form
        className="grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="text-[11.5px] text-mute">
          Block
          <input
            className="field mt-0.5 text-ink"
            value={name}
            placeholder="Turning loop"
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <fieldset className="text-[11.5px] text-mute">
          <legend>chooses from</legend>
          <div className="mt-0.5 flex flex-wrap gap-x-3 gap-y-0.5 text-ink">
            {circuits.map(([id, c]) => (
              <label key={id} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={inputs.includes(id)}
                  onChange={(e) => setInputs(e.target.checked ? [...inputs, id] : inputs.filter((i) => i !== id))}
                />
                {c.name}
              </label>
            ))}
          </div>
        </fieldset>
        <button type="submit" className="btn self-start">
          Add it
        </button>
      </form>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      <p className="mt-1.5 text-[11.5px] text-mute">
        Then give track to its block with the district brush of step Zones, and press Lay it in step Wire.
      </p>
    </Fold>
  );
}
