import { Download } from "lucide-react";
import { useUnderBoards } from "../../api/queries";
import { Bar } from "../../parts/Bar";
import { useLayout } from "../../store/layout";
import { countingWork, isDone } from "../../under/store";
import { saidOf } from "../../under/words";

/** How far the building is, and what helpers stumbled on. */
export function Work() {
  const { data } = useUnderBoards();
  const id = useLayout((s) => s.state?.id);
  if (!data) return <p className="p-4 text-mute">Reading what was done…</p>;
  const work = countingWork(data, []);
  const troubles = data.boards.flatMap((b) =>
    b.tasks
      .map((task) => ({ board: b, task, done: work.get(task.key) }))
      .filter(({ task, done }) => done?.state === "trouble" || (done && done.state !== "open" && !isSame(task, done))),
  );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4 text-[12.5px]" data-testid="work">
      <div className="flex max-w-[820px] items-baseline gap-3">
        <h3 className="flex-1 font-bold text-sm">How far the building is</h3>
        <a className="btn flex items-center gap-1.5" href={`/api/layouts/${id}/files/work.csv`} download>
          <Download size={14} aria-hidden="true" /> Record (CSV)
        </a>
      </div>
      <table className="mt-1 w-full max-w-[820px] [&_td]:py-1 [&_td]:pr-4 [&_th]:pr-4">
        <thead className="text-left text-[11px] text-mute">
          <tr className="border-line border-b">
            <th className="font-medium">Board, in the order of building</th>
            <th className="w-32 font-medium">Done</th>
            <th className="text-right font-medium">Tasks</th>
            <th className="text-right font-medium">Trouble</th>
          </tr>
        </thead>
        <tbody>
          {data.boards.map((b) => {
            const done = b.tasks.filter((t) => isDone(t, work.get(t.key))).length;
            const trouble = b.tasks.filter((t) => work.get(t.key)?.state === "trouble").length;
            return (
              <tr key={b.key} className="border-line border-b">
                <td>
                  <a className="text-link underline" href={`/under?layout=${data.layout}&board=${b.key}`}>
                    {b.name}
                  </a>
                </td>
                <td>
                  <Bar share={done / Math.max(b.tasks.length, 1)} />
                </td>
                <td className="figure text-right">
                  {done} of {b.tasks.length}
                </td>
                <td className={`figure text-right ${trouble ? "font-bold text-oxide" : "text-mute"}`}>
                  {trouble || "—"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <h3 className="mt-5 font-bold text-sm">To look into</h3>
      {troubles.length === 0 ? (
        <p className="text-mute">No trouble noted, and nothing changed after it was done.</p>
      ) : (
        <ul className="max-w-[820px]">
          {troubles.map(({ board, task, done }) =>
            done ? (
              <li key={task.key} className="border-line border-b py-1.5">
                <a
                  className="font-semibold text-link underline"
                  href={`/under?layout=${data.layout}&board=${board.key}&task=${encodeURIComponent(task.key)}`}
                >
                  {task.label}
                </a>{" "}
                <span className="text-mute">on {board.name}.</span> {done.state === "trouble" ? done.note : ""}{" "}
                <span className="text-mute">
                  {saidOf(task, done)}
                  {isSame(task, done) ? "" : "; the plan changed since"}
                </span>
              </li>
            ) : null,
          )}
        </ul>
      )}
    </div>
  );
}

const isSame = (task: { told: string }, done: { told: string }) => task.told === done.told;
