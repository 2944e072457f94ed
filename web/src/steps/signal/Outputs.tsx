import { useSignals } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";

/** Driver boards: what hangs on which output, at which address, and what it all asks of the supply. */
export function Outputs() {
  const { data } = useSignals();
  const show = useBench((s) => s.show);
  if (!data?.drivers.length)
    return <p className="p-4 text-mute">No driver board yet: Signal it places them near their signals.</p>;
  return (
    <ul className="grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-2 p-3 text-[12px]" data-testid="drivers">
      {data.drivers.map((d) => (
        <li key={d.id} className="rounded-lg border border-line bg-paper px-2.5 py-1.5">
          <div className="flex items-baseline justify-between">
            <button
              type="button"
              className="act font-bold"
              onClick={() => show({ kind: "driver", id: d.id }, null, [d.id])}
            >
              {d.name}
            </button>
            <span className="text-mute text-xs">
              {d.drives}, {d.used} of {d.outputs}, asks {bound(d.asks_text)}
            </span>
          </div>
          <ul className="figure mt-1 text-[11px] leading-snug">
            {d.rows.map((r) => (
              <li key={r}>{r}</li>
            ))}
          </ul>
        </li>
      ))}
    </ul>
  );
}
