import { clock } from "../../store/evening";

/** What was put into the evening as it ran, each to be taken out again. `called`: what its button is called besides. */
export function Happenings({
  list,
  onTakeOut,
  testid,
}: {
  list: readonly { seconds: number; words: string; called: string }[];
  onTakeOut: (n: number) => void;
  testid: string;
}) {
  if (!list.length) return null;
  return (
    <ul className="mt-2 grid gap-1 text-xs" data-testid={testid}>
      {list.map(({ seconds, words, called }, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two of a kind may happen at one moment
        <li key={n} className="flex items-baseline gap-2">
          <span className="figure text-mute">{clock(seconds)}</span>
          <span className="min-w-0 flex-1">{words}</span>
          <button
            type="button"
            className="act"
            aria-label={`Take ${called} at ${clock(seconds)} out`}
            onClick={() => onTakeOut(n)}
          >
            Take out
          </button>
        </li>
      ))}
    </ul>
  );
}
