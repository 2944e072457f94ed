import { Choice, Typed } from "../parts/Typed";
import { fieldLength, lengthText } from "../parts/units";
import { type CardProps, Head, Remove, useSet } from "./card";
import { hasThreeRails } from "./rails";

const TWO = ["both", "left", "right"] as const;
const THREE = ["centre", "outer left", "outer right", "all"] as const;

const MADE = ["insulated joiner", "cut and filled"] as const;

/** A gap. */
export function Gap({ id, layout }: CardProps) {
  const gap = layout.gaps?.[id];
  const set = useSet(`/gaps/${id}`, `Gap ${id}`);
  if (!gap) return null;
  const three = hasThreeRails(layout, gap.track);
  const metric = layout.brief?.units === "metric";
  return (
    <>
      <Head title={`Gap ${id}`}>
        {layout.tracks?.[gap.track]?.name}, {lengthText(gap.at, metric)} from its A end
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Rails cut"
          value={gap.rails ?? "both"}
          options={[...new Set([...(three ? THREE : TWO), gap.rails ?? "both"])]}
          onChange={(v) => void set("rails", v, `${v} rail`)}
        />
        <Choice
          label="Made as"
          value={gap.made ?? "insulated joiner"}
          options={MADE}
          onChange={(v) => void set("made", v, v)}
        />
        <Typed
          label="From the A end"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={fieldLength(gap.at, metric)}
          onTake={(v, t) => set("at", v, `at ${t}`)}
        />
      </div>
      <p className="mt-2 text-mute text-xs">
        Meter it before power goes on: open, or nearly so. Eye protection with a cutting disc.
      </p>
      <div className="mt-1">
        <Remove kind="gap" id={id} words="Close this gap" />
      </div>
    </>
  );
}
