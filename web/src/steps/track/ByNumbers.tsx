import { type ReactNode, useState } from "react";
import { answer, api } from "../../api/client";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** Reads a length as people write it, in the layout's own units. */
async function millimetres(text: string): Promise<number> {
  const units = useLayout.getState().state?.document.brief?.units ?? "imperial";
  const bare = units === "metric" ? "mm" : "in";
  const read = await answer(api.GET("/api/read", { params: { query: { kind: "length", text, units, bare } } }));
  return read.value ?? Number.NaN;
}

type FieldProps = { label: string; value: string; onChange: (v: string) => void; placeholder: string };
function Field({ label, value, onChange, placeholder }: FieldProps) {
  return (
    <label className="min-w-0 text-[11.5px] text-mute">
      {label}
      <input
        className="field figure mt-0.5 text-ink"
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

type FormProps = { title: string; wrong: string | null; onLay: () => Promise<unknown>; children: ReactNode };
/** A few numbers, a button, and beside them what was wrong with the last ones. */
function Numbers({ title, wrong, onLay, children }: FormProps) {
  return (
    <form
      className="mt-2.5 border-line border-t pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        void onLay();
      }}
    >
      <h3 className="mb-1 font-bold text-[11px] text-mute">{title}</h3>
      {children}
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      <button type="submit" className="btn mt-1.5">
        Lay it
      </button>
    </form>
  );
}

/** Going on from an open end by numbers: a straight piece, or a curve of a radius through an angle. */
export function GoOn({ node }: { node: string }) {
  const draw = useLayout((s) => s.draw);
  const like = useBench((s) => s.like);
  const [length, setLength] = useState("");
  const [radius, setRadius] = useState("");
  const [turn, setTurn] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const lay = async () => {
    setWrong(null);
    try {
      const curved = radius.trim() !== "";
      const degrees = Number(turn.replace("°", ""));
      if (curved && (!Number.isFinite(degrees) || degrees === 0))
        return setWrong("A curve wants its turn in degrees: 90 to the right, -90 to the left.");
      const act = curved
        ? { act: "extend" as const, node, radius: await millimetres(radius), turn: degrees, like }
        : { act: "extend" as const, node, length: await millimetres(length), turn: 0, like };
      const { made, why } = await draw(act as never);
      if (why) return setWrong(why);
      const track = made ? useLayout.getState().state?.document.tracks?.[made.id] : undefined;
      const end = track?.a.node === node ? track.b.node : track?.a.node;
      if (end) useBench.getState().select({ kind: "node", id: end });
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <Numbers title="Go on from here by numbers" wrong={wrong} onLay={lay}>
      <div className="grid grid-cols-3 gap-2">
        <Field label="Straight" value={length} onChange={setLength} placeholder="3 ft" />
        <Field label="or radius" value={radius} onChange={setRadius} placeholder="18 in" />
        <Field label="turn, °" value={turn} onChange={setTurn} placeholder="-90" />
      </div>
    </Numbers>
  );
}

/** The first track of a plan, or one that stands alone, by numbers: where it begins, how long, which way. */
export function LayByNumbers() {
  const draw = useLayout((s) => s.draw);
  const { like, frog } = useBench();
  const [x, setX] = useState("");
  const [y, setY] = useState("");
  const [length, setLength] = useState("");
  const [way, setWay] = useState("0");
  const [wrong, setWrong] = useState<string | null>(null);
  const lay = async () => {
    setWrong(null);
    try {
      const [x0, y0, mm] = [await millimetres(x || "0"), await millimetres(y || "0"), await millimetres(length)];
      const turn = (Number(way.replace("°", "")) * Math.PI) / 180;
      if (!Number.isFinite(turn))
        return setWrong("The direction is a number of degrees: 0 to the right, 90 down the plan.");
      const spots = [
        { x: x0, y: y0 },
        { x: x0 + mm * Math.cos(turn), y: y0 + mm * Math.sin(turn) },
      ];
      const { made, why } = await draw({ act: "track", spots, like, frog } as never);
      if (why) return setWrong(why);
      const end = made ? useLayout.getState().state?.document.tracks?.[made.id]?.b.node : undefined;
      if (end) useBench.getState().show({ kind: "node", id: end }, null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <Numbers title="Lay one by numbers" wrong={wrong} onLay={lay}>
      <div className="grid grid-cols-4 gap-2">
        <Field label="from left" value={x} onChange={setX} placeholder="0" />
        <Field label="from top" value={y} onChange={setY} placeholder="0" />
        <Field label="length" value={length} onChange={setLength} placeholder="6 ft" />
        <Field label="way, °" value={way} onChange={setWay} placeholder="0" />
      </div>
    </Numbers>
  );
}

/** What can be done at the place of a track that was clicked or walked to with the square brackets. */
export function Here({ track }: { track: string }) {
  const picked = useBench((s) => s.picked);
  const step = useBench((s) => s.step);
  const draw = useLayout((s) => s.draw);
  if (step !== "track" || picked?.track !== track) return null;
  const at = picked.at;
  const acts = [
    ["Gap here", { act: "gap", track, at, rails: "both" }],
    ["Feeder here", { act: "feeder", track, at }],
    ["Split here", { act: "split", track, at }],
  ] as const;
  return (
    <div className="mt-2 flex flex-wrap gap-x-3">
      {acts.map(([words, act]) => (
        <button key={words} type="button" className="act" onClick={() => void draw(act as never)}>
          {words}
        </button>
      ))}
    </div>
  );
}
