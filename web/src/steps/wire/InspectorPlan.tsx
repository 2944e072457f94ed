import { useState } from "react";
import { useAnswers } from "../../api/queries";
import { Sheet } from "../../parts/Sheet";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { useLayout } from "../../store/layout";
import { GoOn } from "../track/ByNumbers";
import { type CardProps, Head, Remove, useSet } from "./card";

const HANDS = ["left", "right"] as const;
const FROGS = ["live", "dead", "routing"] as const;
const CONTACTS = ["none", "contact", "automatic"] as const;
const MOTORS = ["not said", "hand", "stall motor", "solenoid", "servo"] as const;
const BRIDGES = ["split ring", "aligned stub", "reverser"] as const;
const ROLES = ["whole", "enter", "middle", "leave", "junction"] as const;
const RAILS = ["both", "left", "right"] as const;
const MADE = ["insulated joiner", "cut and filled"] as const;

/** A turnout, crossing, table, joint or bumper. */
export function Node({ id, layout }: CardProps) {
  const node = layout.nodes?.[id];
  const { data } = useAnswers();
  const draw = useLayout((s) => s.draw);
  const set = useSet(`/nodes/${id}`, node?.name ?? id);
  if (!node) return null;
  const metric = layout.brief?.units === "metric";
  const ends = Object.keys(data?.nodes[id]?.leaves ?? {}).length;
  const ways = data?.nodes[id]?.ways ?? [];
  const turns = ways.length > 0;
  const frogs = turns || node.kind === "crossing" || node.kind === "slip";
  const table = node.kind === "turntable" || node.kind === "traverser";
  const plain = node.kind === "joint" || node.kind === "bumper";
  const small = (mm: number | null | undefined) =>
    mm ? (metric ? `${mm.toFixed(0)} mm` : `${+(mm / 25.4).toFixed(2)} in`) : "";
  return (
    <>
      <Head title={node.name ?? (node.kind === "joint" && ends < 2 ? `Open end ${id}` : `${node.kind} ${id}`)}>
        {node.kind === "joint" ? (ends < 2 ? "a track ends here" : "two tracks meet here") : node.kind}
        {frogs ? `, ${ends} tracks` : ""}
      </Head>
      <div className="grid grid-cols-2 gap-2">
        {plain ? null : (
          <Typed
            label="Name"
            kind="text"
            shown={node.name ?? ""}
            clearable
            onTake={(v) => set("name", v, String(v ?? "no name"))}
          />
        )}
        {turns ? (
          <Choice
            label="Is set"
            value={node.lies ?? "through"}
            options={ways as never}
            onChange={(v) => void set("lies", v, `set ${v}`)}
          />
        ) : null}
        {node.kind === "turnout" ? (
          <Choice
            label="Hand"
            value={node.hand ?? "left"}
            options={HANDS}
            onChange={(v) => void set("hand", v, `${v} hand`)}
          />
        ) : null}
        {frogs ? (
          <Choice
            label="Frog"
            value={node.frog ?? "live"}
            options={node.kind === "turnout" ? FROGS : FROGS.slice(0, 2)}
            onChange={(v) => void set("frog", v, `${v} frog`)}
          />
        ) : null}
        {frogs && node.frog !== "dead" && node.frog !== "routing" ? (
          <Choice
            label="Frog turned by"
            value={node.contact ?? "contact"}
            options={CONTACTS}
            onChange={(v) => void set("contact", v, `frog turned by ${v}`)}
          />
        ) : null}
        {turns ? (
          <Choice
            label="Thrown by"
            value={node.motor ?? "not said"}
            options={MOTORS}
            onChange={(v) => void set("motor", v === "not said" ? null : v, `thrown by ${v}`)}
          />
        ) : null}
        {turns ? (
          <label className="flex items-center gap-1.5 self-end pb-1.5 text-xs">
            <input
              type="checkbox"
              checked={node.reports ?? false}
              onChange={(e) => void set("reports", e.target.checked, e.target.checked ? "reports" : "reports nothing")}
            />
            reports how it lies
          </label>
        ) : null}
        {frogs && node.frog === "dead" ? (
          <Typed
            label="Dead length"
            kind="length"
            bare={metric ? "mm" : "in"}
            shown={small(node.frog_length)}
            placeholder="not measured"
            clearable
            onTake={(v, t) => set("frog_length", v, `dead frog ${t || "not measured"}`)}
          />
        ) : null}
        {table ? (
          <>
            <Typed
              label={node.kind === "turntable" ? "Pit, across" : "Bridge, length"}
              kind="length"
              bare={metric ? "mm" : "in"}
              shown={small(node.diameter)}
              onTake={(v, t) => set("diameter", v, t)}
            />
            <Choice
              label="Bridge fed by"
              value={node.bridge ?? "split ring"}
              options={BRIDGES}
              onChange={(v) => void set("bridge", v, `bridge fed by ${v}`)}
            />
          </>
        ) : null}
        {node.kind === "traverser" ? (
          <Typed
            label="Turned, degrees"
            kind="text"
            shown={String(node.angle ?? 0)}
            onTake={(v) =>
              Number.isFinite(Number(v))
                ? set("angle", Number(v), `turned ${v}°`)
                : Promise.resolve("This must be a number.")
            }
          />
        ) : null}
      </div>
      {turns && (node.driver || node.report_board || node.button_board) ? (
        <p className="figure mt-1.5 text-[11px]">
          {[
            ["output", node.driver, node.output],
            ["report on input", node.report_board, node.report_input],
            ["button on input", node.button_board, node.button_input],
          ]
            .filter(([, board]) => board)
            .map(([words, board, way]) => `${words} ${way} of ${layout.drivers?.[String(board)]?.name ?? board}`)
            .join("; ")}
        </p>
      ) : null}
      <div className="mt-2 flex flex-wrap gap-x-3">
        {plain && ends < 2 ? (
          <button
            type="button"
            className="act"
            onClick={() => void draw({ act: "turn into", node: id, kind: node.kind === "joint" ? "bumper" : "joint" })}
          >
            {node.kind === "joint" ? "Put a bumper here" : "Take the bumper away"}
          </button>
        ) : null}
        {node.kind === "joint" && ends === 2 ? (
          <button type="button" className="act" onClick={() => void draw({ act: "join", node: id })}>
            Make one track of the two
          </button>
        ) : null}
        {node.kind === "crossing" || node.kind === "slip" ? (
          <button
            type="button"
            className="act"
            onClick={() => void draw({ act: "turn into", node: id, kind: node.kind === "slip" ? "crossing" : "slip" })}
          >
            Make it a {node.kind === "slip" ? "crossing" : "slip"}
          </button>
        ) : null}
        {plain ? null : <Remove kind="node" id={id} words="Take it and its tracks away" />}
      </div>
      {plain && ends === 1 ? <GoOn key={id} node={id} /> : null}
    </>
  );
}

/** A gap. */
export function Gap({ id, layout }: CardProps) {
  const gap = layout.gaps?.[id];
  const set = useSet(`/gaps/${id}`, `Gap ${id}`);
  if (!gap) return null;
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
          options={RAILS}
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
          shown={metric ? `${gap.at.toFixed(0)} mm` : `${+(gap.at / 25.4).toFixed(2)} in`}
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

/** A board. */
export function Board({ id, layout }: CardProps) {
  const board = layout.boards?.[id];
  const draw = useLayout((s) => s.draw);
  const set = useSet(`/boards/${id}`, `Board ${board?.name}`);
  const [copying, setCopying] = useState(false);
  if (!board) return null;
  const metric = layout.brief?.units === "metric";
  const xs = board.outline.map((p) => p.x);
  const ys = board.outline.map((p) => p.y);
  const wide = Math.max(...xs) - Math.min(...xs);
  const deep = Math.max(...ys) - Math.min(...ys);
  const copy = (mirror: "no" | "left to right" | "top to bottom") => {
    void draw({ act: "copy board", board: id, dx: wide + 100, dy: 0, mirror });
    setCopying(false);
  };
  return (
    <>
      <Head title={`Board ${board.name}`}>
        {lengthText(wide, metric)} by {lengthText(deep, metric)}
      </Head>
      <div className="grid grid-cols-2 items-end gap-2">
        <Typed label="Name" kind="text" shown={board.name} onTake={(v) => set("name", v, String(v))} />
        <label className="flex items-center gap-2 pb-1 text-xs">
          <input
            type="checkbox"
            className="size-4 accent-[var(--copper)]"
            checked={board.removable ?? false}
            onChange={(e) => void set("removable", e.target.checked, e.target.checked ? "lifts out" : "fixed")}
          />
          lifts out
        </label>
      </div>
      <div className="mt-2 flex flex-wrap gap-x-3">
        <button type="button" className="act" onClick={() => setCopying(true)}>
          Copy with its track…
        </button>
        <Remove kind="board" id={id} words="Take the board away" />
      </div>
      {copying ? (
        <Sheet
          title={`Copy board ${board.name}`}
          lead="Track that lies wholly on it comes along with its gaps; wiring is laid anew. Mirrored, turnouts change hands."
          onClose={() => setCopying(false)}
        >
          <div className="mt-4 flex flex-wrap justify-end gap-2">
            <button type="button" className="btn-main" onClick={() => copy("no")}>
              As it is
            </button>
            <button type="button" className="btn" onClick={() => copy("left to right")}>
              Mirrored left to right
            </button>
            <button type="button" className="btn" onClick={() => copy("top to bottom")}>
              Mirrored top to bottom
            </button>
          </div>
        </Sheet>
      ) : null}
    </>
  );
}

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
