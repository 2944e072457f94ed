import { Choice, Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { type CardProps, Head, Remove, useSet } from "./card";

const BELOW = ["brace", "leg", "switch machine", "panel", "other"] as const;

/** A brace, a leg, a machine below the boards: wire that is laid goes round it. */
export function Obstacle({ id, layout }: CardProps) {
  const thing = layout.obstacles?.[id];
  const set = useSet(`/obstacles/${id}`, thing?.name ?? "");
  if (!thing) return null;
  const metric = layout.brief?.units === "metric";
  const xs = thing.outline.map((p) => p.x);
  const ys = thing.outline.map((p) => p.y);
  return (
    <>
      <Head title={thing.name}>
        {lengthText(Math.max(...xs) - Math.min(...xs), metric)} by{" "}
        {lengthText(Math.max(...ys) - Math.min(...ys), metric)}, below the boards
      </Head>
      <div className="grid grid-cols-2 items-end gap-2">
        <Typed label="Name" kind="text" shown={thing.name} onTake={(v) => set("name", v, String(v))} />
        <Choice label="Kind" value={thing.kind ?? "brace"} options={BELOW} onChange={(v) => void set("kind", v, v)} />
      </div>
      <p className="mt-1.5 text-mute text-xs">Wire that is laid goes round it; wire drawn through it is a finding.</p>
      <div className="mt-2">
        <Remove kind="obstacle" id={id} words="Take it away" />
      </div>
    </>
  );
}
