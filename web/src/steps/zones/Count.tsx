import { Typed } from "../../parts/Typed";

/** A number of things, whole and not less than so many. */
export function Count({
  label,
  value,
  least,
  onTake,
}: {
  label: string;
  value: number;
  least: number;
  onTake: (n: number) => Promise<string | null>;
}) {
  return (
    <Typed
      label={label}
      hideLabel
      kind="text"
      shown={String(value)}
      onTake={async (v) => {
        const n = Number(v);
        return Number.isInteger(n) && n >= least && n <= 2000 ? onTake(n) : `A whole number from ${least} to 2000.`;
      }}
    />
  );
}
