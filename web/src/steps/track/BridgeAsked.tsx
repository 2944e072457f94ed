import { useBench } from "../../store/bench";

const BRIDGES = [
  [
    "split ring",
    "A split ring in the pit",
    "Turns the rails over by itself; the stubs on the far half are fed swapped.",
  ],
  ["aligned stub", "The stub it meets", "Simple; two live stubs in line must agree, or it joins them."],
  ["reverser", "A reverser of its own", "All stubs fed alike; the longest engine must fit on it."],
] as const;

/** A table's bridge takes its power one of three ways: asked before the table is placed. */
export function BridgeAsked() {
  const { tool, bridge, set } = useBench();
  if (tool !== "turntable" && tool !== "traverser") return null;
  return (
    <fieldset className="border-line border-b p-3 text-xs" data-testid="bridge-asked">
      <legend className="float-left mb-1 w-full font-bold text-sm">How is its bridge fed?</legend>
      {BRIDGES.map(([value, name, words]) => (
        <label key={value} className="mb-1 flex clear-both items-start gap-2">
          <input
            type="radio"
            name="bridge"
            className="mt-0.5 accent-[var(--copper)]"
            checked={bridge === value}
            onChange={() => set({ bridge: value, note: null })}
          />
          <span>
            <b>{name}.</b> <span className="text-mute">{words}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
