import { Choice, Typed } from "../parts/Typed";
import { type CardProps, Head, Remove, useSet } from "./card";
import { MeasuredParts } from "./MeasuredParts";

const HUBS = ["halved strip", "two strips", "distribution board"] as const;

const TERMINALS = ["screw strip", "lever", "tap", "soldered"] as const;

export function Terminal({ id, layout }: CardProps) {
  const terminal = layout.terminals?.[id];
  const set = useSet(`/terminals/${id}`, `Terminal ${id}`);
  if (!terminal) return null;
  const feeders = Object.values(layout.feeders ?? {}).filter((f) => f.terminal === id);
  return (
    <>
      <Head title={`Terminal ${id}`}>
        on bus {layout.runs?.[terminal.run]?.label} ·{" "}
        {feeders.length ? feeders.map((f) => f.label).join(", ") : "no feeders"}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Kind"
          value={terminal.kind ?? "screw strip"}
          options={TERMINALS}
          onChange={(v) => void set("kind", v, v)}
        />
        {(terminal.kind ?? "screw strip") === "screw strip" ? (
          <Choice
            label="Built as"
            value={terminal.hub ?? "halved strip"}
            options={HUBS}
            onChange={(v) => void set("hub", v, `built as ${v}`)}
          />
        ) : null}
        <Typed
          label="Measured, per contact"
          kind="ohms"
          at={`/terminals/${id}/ohms`}
          shown={terminal.ohms ? `${+(terminal.ohms * 1000).toFixed(2)} mΩ` : ""}
          placeholder="usual"
          clearable
          onTake={(v, t) => set("ohms", v, t || "usual")}
        />
        <Typed
          label="Pairs of wires it takes"
          kind="text"
          shown={terminal.pairs ? String(terminal.pairs) : ""}
          placeholder="as its kind does"
          clearable
          onTake={(v) =>
            v === null || /^[1-9]\d?$/.test(String(v))
              ? set(
                  "pairs",
                  v === null ? null : Number(v),
                  v === null ? "takes what its kind does" : `takes ${v} pairs`,
                )
              : Promise.resolve("A whole number from 1 to 99.")
          }
        />
      </div>
      <div className="mt-2">
        <MeasuredParts layout={layout} name={`Terminal ${id}`} kinds={["contact"]} of={id} />
        <Remove kind="terminal" id={id} words="Take it away" />
      </div>
    </>
  );
}
