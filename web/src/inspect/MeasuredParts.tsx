import { useEffect, useId, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Layout } from "../api/client";
import { nextNumber } from "../parts/ids";
import { Choice, Typed } from "../parts/Typed";
import { lengthText } from "../parts/units";
import { today } from "../parts/when";
import { useLayout } from "../store/layout";

type Part = NonNullable<Layout["measured"]>[string];
type What = Part["what"];
type Side = Part["side"];

const RAILS = ["left", "right"] as const;
const CONDUCTORS = ["A", "B"] as const;
const WORDS: Record<What, string> = { joiner: "joiner", contact: "contact", plug: "pole", wire: "wire" };

/** Single joints and wires of a thing that somebody measured by itself, or found broken. */
export function MeasuredParts({
  layout,
  name,
  kinds,
  of,
  track,
}: {
  layout: Layout;
  name: string;
  kinds: readonly What[];
  of?: string;
  track?: string;
}) {
  const edit = useLayout((s) => s.edit);
  const metric = layout.brief?.units === "metric";
  const [open, setOpen] = useState(false);
  const heading = useId();
  const opener = useRef<HTMLButtonElement>(null);
  const close = () => {
    flushSync(() => setOpen(false));
    opener.current?.focus(); // who works by keyboard goes on from here
  };
  const mine = Object.entries(layout.measured ?? {}).filter(([, p]) =>
    track ? p.track === track : p.of === of && kinds.includes(p.what),
  );
  const said = (p: Part) =>
    `${p.side} ${WORDS[p.what]}${p.what === "joiner" ? ` at ${lengthText(p.at ?? 0, metric)}` : ""}`;
  return (
    <section className="mt-2 text-xs" aria-labelledby={heading} data-testid="measured-parts">
      <h3 id={heading} className="text-[11.5px] text-mute">
        Measured by itself
      </h3>
      <ul className="grid gap-1">
        {mine.map(([key, p]) => (
          <li key={key} className="flex items-center gap-2">
            <span className="min-w-0 flex-1">
              {said(p)}:{" "}
              {p.ohms === null || p.ohms === undefined ? (
                <b className="text-oxide">broken</b>
              ) : (
                <b className="figure">{+(p.ohms * 1000).toFixed(2)} mΩ</b>
              )}
              {p.on ? <span className="text-mute"> · {p.on}</span> : null}
            </span>
            <button
              type="button"
              className="act"
              aria-label={`Forget the ${said(p)}`}
              onClick={() =>
                void edit(`${name}: forget the ${said(p)}`, [{ op: "remove", path: `/measured/${key}` }], true)
              }
            >
              forget
            </button>
          </li>
        ))}
      </ul>
      {open ? (
        <Add layout={layout} name={name} kinds={kinds} of={of} track={track} onDone={close} />
      ) : (
        <button ref={opener} type="button" className="act" onClick={() => setOpen(true)}>
          Add a reading…
        </button>
      )}
    </section>
  );
}

function Add({
  layout,
  name,
  kinds,
  of,
  track,
  onDone,
}: {
  layout: Layout;
  name: string;
  kinds: readonly What[];
  of?: string;
  track?: string;
  onDone: () => void;
}) {
  const edit = useLayout((s) => s.edit);
  const metric = layout.brief?.units === "metric";
  const [what, setWhat] = useState<What>(kinds[0] as What);
  const sides = track ? RAILS : CONDUCTORS;
  const [side, setSide] = useState<Side>(sides[0]);
  const [at, setAt] = useState(0);
  const add = async (ohms: number | null, words: string) => {
    const value = { what, side, ohms, at, on: today(), ...(track ? { track } : { of }) };
    const why = await edit(
      `${name}: ${side} ${WORDS[what]} ${words}`,
      [{ op: "add", path: `/measured/M${nextNumber("M", layout.measured)}`, value }],
      true,
    );
    if (why === null) onDone();
    return why;
  };
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.querySelector<HTMLElement>("select, input")?.focus(), []);
  return (
    <div ref={box} className="mt-1 grid grid-cols-2 items-end gap-2 rounded-lg border border-line bg-paper p-2">
      {kinds.length > 1 ? <Choice label="What" value={what} options={kinds} onChange={setWhat} /> : null}
      <Choice
        label={track ? "In the rail" : "Of conductor"}
        value={side}
        options={sides as readonly Side[]}
        onChange={setSide}
      />
      {track ? (
        <Typed
          label="Joiner, from the A end"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={lengthText(at, metric)}
          onTake={async (v) => {
            setAt(Number(v));
            return null;
          }}
        />
      ) : null}
      <Typed label="Reads" kind="ohms" shown="" placeholder="such as 40 mΩ" onTake={(v, t) => add(Number(v), t)} />
      <button type="button" className="btn" onClick={() => void add(null, "is broken")}>
        It is broken
      </button>
      <button type="button" className="act justify-self-start" onClick={onDone}>
        Never mind
      </button>
    </div>
  );
}
