import { TriangleAlert } from "lucide-react";
import { useMemo, useState } from "react";
import { AsideList } from "./AsideList";
import { countingWork, isDone, read, useUnder, write } from "./store";
import { Waiting } from "./Waiting";

type Props = { onGo: (board: string) => void; onBench: (what: "prove" | "find" | "set up") => void };

/** All boards in the order they are built, with how far each is. */
export function Boards({ onGo, onBench }: Props) {
  const [warned, setWarned] = useState(read("copper.under.warned", false));
  const { pages, waiting, who, call } = useUnder();
  const work = useMemo(() => countingWork(pages, waiting), [pages, waiting]);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <header className="px-4 pt-4 pb-2">
        <h1 className="font-bold text-xl">Under the boards</h1>
        <p className="text-[14px] text-mute">
          {pages?.name}, change {pages?.revision}. Boards in the order they are built.
        </p>
        <label className="mt-3 flex items-center gap-2.5 text-[14px] text-mute">
          Who is under here?
          <input
            className="min-w-0 flex-1 rounded-lg border border-line bg-card px-3 py-2 text-[16px] text-ink"
            value={who}
            maxLength={40}
            placeholder="Name or initials"
            autoComplete="name"
            onChange={(e) => call(e.target.value)}
          />
        </label>
      </header>
      <Waiting />
      <AsideList />
      {warned ? null : (
        <div className="mx-4 mt-1 rounded-xl border border-amber px-3.5 py-2.5 text-[14px]">
          <ul className="list-disc pl-4">
            {(pages?.cautions ?? []).map((c) => (
              <li key={c} className="mb-1">
                {c}
              </li>
            ))}
          </ul>
          <button
            type="button"
            className="mt-1 h-11 w-full rounded-lg border border-line font-semibold"
            onClick={() => {
              write("copper.under.warned", true);
              setWarned(true);
            }}
          >
            Read and minded
          </button>
        </div>
      )}
      <div className="mx-4 mt-2.5 grid grid-cols-2 gap-2.5">
        <button
          type="button"
          className="h-14 rounded-xl border border-line bg-card font-bold text-[17px]"
          onClick={() => onBench("prove")}
        >
          Prove
        </button>
        <button
          type="button"
          className="h-14 rounded-xl border border-line bg-card font-bold text-[17px]"
          onClick={() => onBench("find")}
        >
          Find it
        </button>
        {pages?.lifts ? (
          <button
            type="button"
            className="col-span-2 h-14 rounded-xl border border-line bg-card font-bold text-[17px]"
            onClick={() => onBench("set up")}
          >
            Set up
          </button>
        ) : null}
      </div>
      <ul className="px-4 pb-4">
        {(pages?.boards ?? []).map((b) => {
          const done = b.tasks.filter((t) => isDone(t, work.get(t.key))).length;
          const trouble = b.tasks.filter((t) => work.get(t.key)?.state === "trouble").length;
          return (
            <li key={b.key}>
              <button
                type="button"
                className="mt-2.5 block w-full rounded-xl border border-line bg-card px-4 py-3 text-left"
                onClick={() => onGo(b.key)}
              >
                <span className="flex items-baseline gap-2">
                  <b className="flex-1 text-[18px]">{b.name}</b>
                  {trouble ? (
                    <span className="flex items-center gap-1 text-[14px] text-oxide">
                      <TriangleAlert size={15} aria-hidden="true" />
                      {trouble} in trouble
                    </span>
                  ) : null}
                  <span className="figure text-[15px] text-mute">
                    {done} of {b.tasks.length}
                  </span>
                </span>
                <span className="mt-1.5 block h-1.5 overflow-hidden rounded bg-board">
                  <span
                    className="block h-full bg-copper"
                    style={{ width: `${(100 * done) / Math.max(b.tasks.length, 1)}%` }}
                  />
                </span>
                <span className="mt-1 block text-[13px] text-mute">
                  {b.after.length
                    ? `Power comes from ${b.after.join(", ")}`
                    : b.key.startsWith("panel-")
                      ? "A control panel, wired at the bench before it goes under"
                      : "Power starts here, or nothing brings it"}
                </span>
              </button>
            </li>
          );
        })}
        {pages && pages.boards.length === 0 ? (
          <li className="pt-4 text-mute">
            There is nothing to wire yet: no boards with gaps or wires. The lead lays wire in the step Wire.
          </li>
        ) : null}
      </ul>
    </div>
  );
}
