import { useShows, useTravel } from "./queries";
import { ShowBar, useShow } from "./ShowBar";
import { TryRow } from "./TryRow";

/** The proof before the doors open, and what earlier shows were like. */
export function DoorsOpen() {
  const { data } = useTravel();
  const { data: shows } = useShows();
  const [{ show, day }, take] = useShow();
  if (!data) return <p className="p-3 text-mute text-xs">Choosing what to try…</p>;
  const tests = [...data.proof, ...data.later, ...data.steps.flatMap((s) => [...s.before, ...s.after, ...s.live])];
  const title = (key: string) => tests.find((t) => t.key === key)?.title ?? key.split(/[:/]/).slice(1).join(" · ");
  const days = [...new Map((shows?.entries ?? []).map((e) => [`${e.day} ${e.show}`, e])).values()];
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Before the doors open" data-testid="doors">
      <ShowBar show={show} day={day} onTake={take} />
      <p className="mb-1">
        {data.proof_words} A coin is touched, never held: it gets hot, and so does the wire. Local codes and licensed
        practice come first.
      </p>
      {data.proof.length ? (
        <ol>
          {data.proof.map((t) => (
            <TryRow key={t.key} test={t} show={show} day={day} />
          ))}
        </ol>
      ) : (
        <p className="text-mute">Nothing to try yet: no track has power.</p>
      )}
      {data.later.length ? (
        <>
          <h3 className="mt-2 font-bold">If there is time</h3>
          <ol>
            {data.later.map((t) => (
              <TryRow key={t.key} test={t} show={show} day={day} />
            ))}
          </ol>
        </>
      ) : null}
      {days.length ? (
        <>
          <h3 className="mt-3 font-bold">Shows so far</h3>
          <ul>
            {days.map((d) => {
              const here = (shows?.entries ?? []).filter((e) => e.show === d.show && e.day === d.day);
              const failed = here.filter((e) => e.state === "failed");
              return (
                <li key={`${d.day} ${d.show}`} className="border-line border-b py-1">
                  <b>{d.show}</b>, {d.day}: {here.length} tried, {failed.length} failed
                  {failed.length ? (
                    <ul className="list-disc pl-4 text-[11.5px]">
                      {failed.map((f) => (
                        <li key={f.what}>
                          {title(f.what)}
                          {f.note ? `: ${f.note}` : ""}
                        </li>
                      ))}
                    </ul>
                  ) : null}
                </li>
              );
            })}
          </ul>
        </>
      ) : null}
    </section>
  );
}
