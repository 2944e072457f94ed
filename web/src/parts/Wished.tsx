import { Typed } from "./Typed";
import { lengthText } from "./units";

/** A whole number a proposal is asked with. */
export function WholeNumber(props: { label: string; value: number; most: number; onTake: (value: number) => void }) {
  return (
    <Typed
      label={props.label}
      kind="text"
      shown={String(props.value)}
      onTake={async (v) => {
        const number = Number(v);
        if (!Number.isInteger(number) || number < 1 || number > props.most)
          return `A whole number from 1 to ${props.most}.`;
        props.onTake(number);
        return null;
      }}
    />
  );
}

/** The shortest block a proposal may make; left empty it follows from the trains. */
export function ShortestBlock(props: {
  value: number | null;
  metric: boolean;
  follows: string;
  onTake: (value: number | null) => void;
}) {
  return (
    <Typed
      label="Shortest block"
      kind="length"
      shown={props.value === null ? "" : lengthText(props.value, props.metric)}
      placeholder={props.follows}
      clearable
      onTake={async (v) => {
        if (typeof v === "number" && (v < 100 || v > 1e5)) return "Between 4 in and 300 ft.";
        props.onTake(typeof v === "number" ? v : null);
        return null;
      }}
    />
  );
}
