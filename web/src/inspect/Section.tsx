import { Choice, Typed } from "../parts/Typed";
import { type CardProps, Head, Remove, useSet } from "./card";

const ROLES = ["whole", "enter", "middle", "leave", "junction"] as const;

/** A section: its name, its circuit, the longest train let in. */
export function Section({ id, layout }: CardProps) {
  const section = layout.sections?.[id];
  const set = useSet(`/sections/${id}`, section?.name ?? id);
  if (!section) return null;
  const metric = layout.brief?.units === "metric";
  const circuits = Object.entries(layout.circuits ?? {});
  const name = layout.circuits?.[section.circuit]?.name ?? "";
  return (
    <>
      <Head title={section.name}>section, anchored on {layout.tracks?.[section.track]?.name}</Head>
      <div className="grid grid-cols-2 gap-2">
        <Typed label="Name" kind="text" shown={section.name} onTake={(v) => set("name", v, String(v))} />
        <Choice
          label="Fed by"
          value={name}
          options={circuits.map(([, c]) => c.name)}
          onChange={(v) => void set("circuit", circuits.find(([, c]) => c.name === v)?.[0], `fed by ${v}`)}
        />
        <Typed
          label="Longest train let in"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={
            section.longest
              ? metric
                ? `${section.longest.toFixed(0)} mm`
                : `${+(section.longest / 25.4).toFixed(1)} in`
              : ""
          }
          placeholder="all trains"
          clearable
          onTake={(v, t) => set("longest", v, `trains up to ${t || "any length"}`)}
        />
        {Object.keys(layout.blocks ?? {}).length ? (
          <>
            <Choice
              label="Block"
              value={layout.blocks?.[section.block ?? ""]?.name ?? "none"}
              options={["none", ...Object.values(layout.blocks ?? {}).map((b) => b.name)]}
              onChange={(v) =>
                void set(
                  "block",
                  Object.entries(layout.blocks ?? {}).find(([, b]) => b.name === v)?.[0] ?? null,
                  `block ${v}`,
                )
              }
            />
            <Choice
              label="What it is to it"
              value={section.role ?? "whole"}
              options={ROLES}
              onChange={(v) => void set("role", v, v)}
            />
          </>
        ) : null}
      </div>
      <div className="mt-2">
        <Remove kind="section" id={id} words="Drop this section" />
      </div>
    </>
  );
}
