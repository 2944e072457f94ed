import { useFleet } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Columns } from "../../parts/Columns";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** What the scene asks of every source and breaker at worst, and what is left. */
export function Budget() {
  const { data } = useFleet();
  const show = useBench((s) => s.show);
  const set = useBench((s) => s.set);
  const name = useLayout((s) => (data?.scene ? s.state?.document.scenes?.[data.scene]?.name : null));
  return (
    <section className="rounded-xl border border-line bg-card p-4" aria-label="Amps asked">
      <h2 className="font-bold text-sm">Amps asked{name ? `, ${name}` : ""}</h2>
      <p className="mb-2 text-mute text-xs">
        At worst: every train that may be behind a device is there at once. A train that roams two districts counts in
        both, so these add up to more than the {data?.total_text ?? "0 A"} the scene draws.
        {data?.guesses ? ` ${data.guesses} kinds of locomotive still go by a guess.` : ""}
      </p>
      {data?.asked.length ? (
        <table className="w-full text-[12px]" data-testid="asked">
          <Columns names={["Source or breaker", "Asked", "one stalled", "at start", "May give", "Left", "Room for"]} />
          <tbody>
            {data.asked.map((a) => (
              <tr
                key={a.device}
                className="border-line border-b align-baseline"
                title={`${a.trains.join(", ") || "no train"}; lit cars and axles ${a.lit_text}, decoders that stand ${a.steady_text}`}
              >
                <td className="py-1 pr-2">
                  <button
                    type="button"
                    className="act text-left"
                    onClick={() => {
                      set({ step: "wire" });
                      show({ kind: "device", id: a.device }, null);
                    }}
                  >
                    {a.name}
                  </button>
                </td>
                <td className="figure pr-2">{bound(a.worst_text)}</td>
                <td className="figure pr-2">{bound(a.stalled_text)}</td>
                <td
                  className={`figure pr-2 ${a.restarts ? "" : "font-semibold text-oxide"}`}
                  title={`When power returns all of it fills up together${a.starts_text ? `; ${a.starts_text} are let through` : ""}`}
                >
                  {bound(a.inrush_text)}
                  {a.restarts ? "" : " too much"}
                </td>
                <td className="figure pr-2">{a.gives_text ?? "not known"}</td>
                <td className={`figure pr-2 ${a.over ? "font-semibold text-oxide" : ""}`}>
                  {a.room_text ?? ""}
                  {a.over ? " too little" : ""}
                </td>
                <td className="figure">{a.more === null ? "" : `${a.more} more`}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="text-xs">No source or breaker yet.</p>
      )}
    </section>
  );
}
