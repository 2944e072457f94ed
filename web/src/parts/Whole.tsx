import { Typed } from "./Typed";

type Took = Promise<string | null>;

/** A whole number within bounds, which it names when something else is typed. none: what it says where it may be left
 * open, and what happens then. */
export function Whole(props: {
  label: string;
  value: number | null;
  least?: number;
  most?: number;
  hideLabel?: boolean;
  none?: { says: string; onTake: () => Took };
  onTake: (value: number) => unknown;
}) {
  const { label, value, least = 0, most = 2000, hideLabel, none } = props;
  return (
    <Typed
      label={label}
      hideLabel={hideLabel}
      kind="text"
      shown={value === null ? "" : String(value)}
      placeholder={none?.says}
      clearable={none !== undefined}
      onTake={async (v) => {
        if (v === null) return none ? none.onTake() : null;
        const n = Number(v);
        if (!Number.isInteger(n) || n < least || n > most) return `A whole number from ${least} to ${most}.`;
        const why = await props.onTake(n);
        return typeof why === "string" ? why : null;
      }}
    />
  );
}
