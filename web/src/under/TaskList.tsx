import { Check, ChevronLeft, Circle, TriangleAlert } from "lucide-react";
import { useMemo } from "react";
import { type Board, countingWork, isDone, useUnder } from "./store";
import { Waiting } from "./Waiting";
import { SAYS } from "./words";

/** A board's tasks at a glance; the big button goes on where work stopped. */
export function TaskList({ board }: { board: Board }) {
  const { pages, waiting, go } = useUnder();
  const work = useMemo(() => countingWork(pages, waiting), [pages, waiting]);
  const next = board.tasks.find((t) => !isDone(t, work.get(t.key)) && work.get(t.key)?.state !== "trouble");
  const left = board.tasks.filter((t) => !isDone(t, work.get(t.key))).length;
  const after = pages?.boards[pages.boards.findIndex((b) => b.key === board.key) + 1];
  return (
    <>
      <header className="flex items-center gap-2 px-2 pt-3 pb-2">
        <button type="button" className="p-2" aria-label="All boards" onClick={() => go(null, null)}>
          <ChevronLeft size={26} aria-hidden="true" />
        </button>
        <div>
          <h1 className="font-bold text-xl">{board.name}</h1>
          <p className="text-[14px] text-mute">
            {left ? `${left} of ${board.tasks.length} to do` : "Everything here is done"}
            {board.after.length ? `; power from ${board.after.join(", ")}` : ""}
          </p>
        </div>
      </header>
      <Waiting />
      <ul className="min-h-0 flex-1 overflow-y-auto px-4">
        {board.tasks.map((t) => {
          const done = work.get(t.key);
          const state = done?.state === "trouble" ? "trouble" : isDone(t, done) ? "done" : "open";
          return (
            <li key={t.key}>
              <button
                type="button"
                className="flex w-full items-center gap-3 border-line border-b py-2.5 text-left"
                onClick={() => go(board.key, t.key)}
              >
                {state === "done" ? <Check size={20} className="text-verd" aria-hidden="true" /> : null}
                {state === "trouble" ? <TriangleAlert size={20} className="text-oxide" aria-hidden="true" /> : null}
                {state === "open" ? <Circle size={20} className="text-mute" aria-hidden="true" /> : null}
                <b className="figure w-20 text-[17px]">{t.label}</b>
                <span className="min-w-0 flex-1 truncate text-[14px] text-mute">
                  {SAYS[t.kind].name}
                  {state === "trouble" && done?.note ? `: ${done.note}` : ""}
                  {state === "open" && done?.state === "wired" && done.told === t.told ? ": wired, not tested" : ""}
                  {state === "open" && done && done.state !== "open" && done.told !== t.told ? ": changed since" : ""}
                </span>
                <span className="sr-only">
                  {state === "done" ? "done" : state === "trouble" ? "in trouble" : "to do"}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <div className="p-4">
        {next ? (
          <button
            type="button"
            className="h-16 w-full rounded-xl bg-copper font-bold text-[19px] text-[#1a1208]"
            onClick={() => go(board.key, next.key)}
          >
            {left === board.tasks.length ? `Start with ${next.label}` : `Go on with ${next.label}`}
          </button>
        ) : after ? (
          <button
            type="button"
            className="h-16 w-full rounded-xl bg-copper font-bold text-[19px] text-[#1a1208]"
            onClick={() => go(after.key, null)}
          >
            On to {after.name}
          </button>
        ) : (
          <p className="text-center text-mute">That was the last board.</p>
        )}
      </div>
    </>
  );
}
