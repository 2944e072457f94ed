import { useAnswers } from "../api/queries";
import { Choice, Typed } from "../parts/Typed";
import { fieldLength } from "../parts/units";
import { GoOn } from "../steps/track/ByNumbers";
import { useLayout } from "../store/layout";
import { type CardProps, Head, Remove, useSet } from "./card";

const HANDS = ["left", "right"] as const;

const CONTACTS = ["none", "contact", "automatic"] as const;

const MOTORS = ["not said", "hand", "stall motor", "solenoid", "servo"] as const;

const BRIDGES = ["split ring", "aligned stub", "reverser"] as const;

/** A turnout, crossing, table, joint or bumper. */
export function Node({ id, layout }: CardProps) {
  const node = layout.nodes?.[id];
  const { data } = useAnswers();
  const draw = useLayout((s) => s.draw);
  const set = useSet(`/nodes/${id}`, node?.name ?? id);
  if (!node) return null;
  const met = Object.entries(layout.tracks ?? {}).flatMap(([track, t]) =>
    [t.a, t.b].flatMap((p) => (p.node === id ? [{ track, port: p.port }] : [])),
  );
  const stubs = met.map((m) => m.port).sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
  const metric = layout.brief?.units === "metric";
  const ends = Object.keys(data?.nodes[id]?.leaves ?? {}).length;
  const ways = data?.nodes[id]?.ways ?? [];
  const turns = ways.length > 0;
  const frogs = data?.nodes[id]?.frogs ?? [];
  const junction = frogs.length > 0;
  const table = node.kind === "turntable" || node.kind === "traverser";
  const plain = node.kind === "joint" || node.kind === "bumper";
  const small = (mm: number | null | undefined) => (mm ? fieldLength(mm, metric) : "");
  return (
    <>
      <Head title={node.name ?? (node.kind === "joint" && ends < 2 ? `Open end ${id}` : `${node.kind} ${id}`)}>
        {node.kind === "joint" ? (ends < 2 ? "a track ends here" : "two tracks meet here") : node.kind}
        {junction ? `, ${ends} tracks` : ""}
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
        {junction ? (
          <Choice
            label="Frog"
            value={node.frog ?? "live"}
            options={frogs as never}
            onChange={(v) => void set("frog", v, `${v} frog`)}
          />
        ) : null}
        {data?.nodes[id]?.turned ? (
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
        {turns ? (
          <label className="flex items-center gap-1.5 self-end pb-1.5 text-xs">
            <input
              type="checkbox"
              checked={node.inverted ?? false}
              onChange={(e) => void set("inverted", e.target.checked, e.target.checked ? "inverted" : "not inverted")}
            />
            its command is inverted
          </label>
        ) : null}
        {junction && node.frog === "dead" ? (
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
            <Choice
              label="Its near end meets"
              value={node.points_at ?? "not said"}
              options={["not said", ...stubs]}
              onChange={(v) => void set("points_at", v === "not said" ? null : v, `meets ${v}`)}
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
