import { useMoment, useSignals } from "../../api/queries";
import { useBench } from "../../store/bench";

/** Signal by signal, in plain words: with which turnouts, what must be clear, where it leads, what it shows then. */
export function AspectTable() {
  const { data } = useSignals();
  const moment = useMoment();
  const { selected, show } = useBench();
  if (!data?.routes.length)
    return (
      <p className="p-4 text-mute">
        No signal yet. Press <b>Signal it</b> beside the plan, or place heads by hand: step Track, tool Signal.
      </p>
    );
  let last = "";
  return (
    <table className="w-full text-[12px]" data-testid="aspects">
      <thead className="sticky top-0 bg-card text-left text-[11px] text-mute">
        <tr>
          {["Signal", "Now", "With turnouts", "Clear must be", "Leads to", "Then it shows"].map((h) => (
            <th key={h} className="border-line border-b px-2 py-1.5 font-medium">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {data.routes.map((r) => {
          const first = r.signal !== last;
          last = r.signal;
          const now = moment?.shows[r.signal];
          return (
            <tr
              key={`${r.signal}${r.turnouts}${r.leads}${r.clear}`}
              className={`${first ? "border-line border-t" : ""} ${selected?.id === r.signal ? "bg-board" : ""}`}
            >
              <td className="px-2 py-0.5">
                {first ? (
                  <button
                    type="button"
                    className="act font-bold"
                    onClick={() => show({ kind: "signal", id: r.signal }, null, [r.signal])}
                  >
                    {r.name}
                  </button>
                ) : null}
              </td>
              <td className="whitespace-nowrap px-2">{first ? now?.aspect : null}</td>
              <td className="px-2">{r.turnouts}</td>
              <td className="px-2">{r.clear}</td>
              <td className="px-2">{r.leads}</td>
              <td className="px-2">{r.shows}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
