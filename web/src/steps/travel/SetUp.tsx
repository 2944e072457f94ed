import { type Travel, type Tried, useTravel } from "./queries";
import { ShowBar, useShow } from "./ShowBar";
import { TryRow } from "./TryRow";

/** The set-up list: each board in its turn, what is tried before it is bolted up, with its couplings mated, and live. */
export function SetUp() {
  const { data } = useTravel();
  const [{ show, day }, take] = useShow();
  if (!data) return <p className="p-3 text-mute text-xs">Putting the boards in order…</p>;
  if (!data.steps.length) return <p className="p-3 text-[12px]">{data.words}</p>;
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Set up" data-testid="set-up">
      <ShowBar show={show} day={day} onTake={take} />
      {data.standing.length ? <p className="mb-1">Stands already: {data.standing.join(", ")}.</p> : null}
      {data.apart.length ? (
        <p className="mb-1 text-oxide">
          Nothing joins {data.apart.join(", ")} to the others: no wire and no track crosses.
        </p>
      ) : null}
      <ol className="grid gap-2.5">
        {data.steps.map((s) => (
          <Step key={s.board} step={s} show={show} day={day} />
        ))}
      </ol>
    </section>
  );
}

function Step({ step, show, day }: { step: Travel["steps"][number]; show: string; day: string }) {
  const list = (title: string, tests: Tried[]) =>
    tests.length ? (
      <>
        <h4 className="mt-1.5 font-semibold text-mute">{title}</h4>
        <ul>
          {tests.map((t) => (
            <TryRow key={t.key} test={t} show={show} day={day} />
          ))}
        </ul>
      </>
    ) : null;
  return (
    <li className="rounded-lg border border-line bg-paper p-2.5">
      <h3 className="font-bold text-[13px]">
        <span className="figure">{step.number}</span> {step.name}
        {step.box ? <span className="font-normal text-mute"> out of {step.box}</span> : null}
      </h3>
      <p>{step.words}</p>
      {list("Before it is bolted up", step.before)}
      {list("Bolted and mated, power off", step.after)}
      {list("Power on", step.live)}
    </li>
  );
}
