import type { Shape } from "../api/client";

/** Ink by what became of a thing; shape tells it too: gone is dashed, changed is dotted. */
const INKS: Record<string, { stroke: string; dash?: string }> = {
  added: { stroke: "var(--verd)" },
  gone: { stroke: "var(--oxide)", dash: "9 5" },
  changed: { stroke: "var(--amber)", dash: "2 3" },
};
const SAME: Record<string, string> = { board: "var(--boardline)", run: "var(--coppercore)", track: "var(--plain)" };

type Props = {
  picture: Shape["PictureShape"] /** What is seen; left out where words beside say it. */;
  label?: string;
  lit?: string | null;
};

/** A plan in small, or two states of it as one. */
export function Picture({ picture, label, lit }: Props) {
  const differs = picture.marks.some((m) => m.how !== "same");
  return (
    <svg
      viewBox={picture.box.join(" ")}
      className="h-full w-full"
      role="img"
      aria-label={label}
      aria-hidden={label === undefined}
    >
      {picture.marks.map((m) => {
        const thing = `${m.kind}:${m.id}`;
        const ink = INKS[m.how];
        const plain = m.kind === "track" && !differs ? "var(--rail)" : (SAME[m.kind] ?? "var(--plain)");
        const width = thing === lit ? 7 : m.spot ? 8 : ink ? 3 : m.kind === "track" ? 1.6 : 1;
        return (
          <path
            key={`${thing}${m.how}${m.spot}`}
            d={m.path}
            data-thing={thing}
            fill={m.kind === "board" ? "var(--board)" : "none"}
            stroke={thing === lit ? "var(--copper)" : (ink?.stroke ?? plain)}
            strokeDasharray={m.spot ? undefined : ink?.dash}
            strokeLinecap={m.spot || !ink ? "round" : "butt"}
            strokeWidth={width}
            vectorEffect="non-scaling-stroke"
          />
        );
      })}
    </svg>
  );
}
