import { Choice, Typed } from "../parts/Typed";
import type { CardProps } from "./card";

/** A whole number; what is not one goes to the server as it is, which says why. */
export function Whole({
  label,
  value,
  onTake,
}: {
  label: string;
  value: number;
  onTake: (v: unknown) => Promise<string | null>;
}) {
  return (
    <Typed
      label={label}
      kind="text"
      shown={String(value)}
      onTake={(v) => onTake(Number.isInteger(Number(v)) ? Number(v) : v)}
    />
  );
}

/** Which accessory supply a board's electronics run from. */
export function RunsFrom({
  layout,
  supply,
  onTake,
}: {
  layout: CardProps["layout"];
  supply: string | null | undefined;
  onTake: (supply: string | null, words: string) => void;
}) {
  const buses = Object.entries(layout.circuits ?? {}).filter(([, c]) => c.purpose === "accessory");
  if (!buses.length) return null;
  return (
    <Choice
      label="Runs from"
      value={layout.circuits?.[supply ?? ""]?.name ?? "not said"}
      options={["not said", ...buses.map(([, c]) => c.name)]}
      onChange={(v) => onTake(buses.find(([, c]) => c.name === v)?.[0] ?? null, `runs from ${v}`)}
    />
  );
}
