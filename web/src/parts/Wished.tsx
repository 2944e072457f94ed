import { Typed } from "./Typed";
import { lengthText } from "./units";

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
