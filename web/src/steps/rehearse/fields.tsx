import { Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { useLayout } from "../../store/layout";

/** A track of the layout, by name; one that is gone stays named. */
export function TrackChoice({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (v: string) => void;
}) {
  const tracks = useLayout((s) => s.state?.document.tracks);
  return (
    <select className="field" aria-label={label} value={value} onChange={(e) => onChange(e.target.value)}>
      {tracks?.[value] ? null : <option value={value}>{value} (gone)</option>}
      {Object.entries(tracks ?? {}).map(([t, v]) => (
        <option key={t} value={t}>
          {v.name}
        </option>
      ))}
    </select>
  );
}

/** The end of a track a train faces, by what stands there. */
export function Facing({
  label,
  track,
  value,
  onChange,
}: {
  label: string;
  track: string;
  value: "a" | "b";
  onChange: (v: "a" | "b") => void;
}) {
  const document = useLayout((s) => s.state?.document);
  const end = (e: "a" | "b") => {
    const node = document?.tracks?.[track]?.[e]?.node;
    return node ? (document?.nodes?.[node]?.name ?? node) : e;
  };
  return (
    <select className="field" aria-label={label} value={value} onChange={(e) => onChange(e.target.value as "a" | "b")}>
      <option value="b">{end("b")}</option>
      <option value="a">{end("a")}</option>
    </select>
  );
}

/** A length in the layout's own units. */
export function LengthOf({ label, mm, onTake }: { label: string; mm: number; onTake: (v: number) => Promise<void> }) {
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  return (
    <Typed
      label={label}
      hideLabel
      kind="length"
      bare={metric ? "mm" : "in"}
      shown={fieldLength(mm, metric)}
      onTake={async (v) => {
        await onTake(Number(v));
        return null;
      }}
    />
  );
}
