import { Download } from "lucide-react";
import { useId, useState } from "react";
import type { Shape } from "../../api/client";
import { useHistory, useWhere } from "../../api/queries";
import { useStreamed } from "../../api/useStreamed";
import { Bar } from "../../parts/Bar";
import { bound } from "../../parts/bound";
import { Progress } from "../../parts/Progress";
import { pathOf, useFile } from "../../parts/useFile";
import { dayOf } from "../../parts/when";

const many = (count: number, what: string) => `${count} ${what}${count === 1 ? "" : "s"}`;

/** The work between any two changes of the layout, evening by evening. */
export function ChangeOrders() {
  const { id, revision } = useWhere();
  const { data: pages, hasNextPage, fetchNextPage, isFetchingNextPage } = useHistory();
  const history = pages?.pages.flat();
  const [before, setBefore] = useState<number | null>(null);
  const [after, setAfter] = useState<number | null>(null);
  const [hours, setHours] = useState("2.5");
  const [order, setOrder] = useState<Shape["ChangeOrderShape"] | null>(null);
  const [minutes, setMinutes] = useState(150);
  const { done, wrong, start, stop } = useStreamed<Shape["ChangeOrderShape"]>();
  const { writing, wrong: unwritten, get } = useFile();
  const ids = { before: useId(), after: useId(), hours: useId() };
  const first = before ?? history?.at(-1)?.number ?? 1;
  const last = after ?? revision;
  const typed = Number(hours.replace(",", "."));
  const bad = !(typed >= 0.5 && typed <= 24);
  const ask = async () => {
    setMinutes(typed * 60);
    setOrder(
      await start(`/api/layouts/${id}/change-order?before=${first}&after=${last}&minutes=${Math.round(typed * 60)}`),
    );
  };
  const file = (name: string) =>
    pathOf(`/api/layouts/${id}/files/${name}`, { before: order?.before, after: order?.after, minutes });
  const options = (history ?? []).map((h) => (
    <option key={h.number} value={h.number}>
      {h.number}, {dayOf(h.made)}: {h.summary}
    </option>
  ));
  const jobs = order?.evenings.reduce((sum, e) => sum + e.jobs.length, 0) ?? 0;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4 text-[12.5px]" data-testid="change-orders">
      <h3 className="font-bold text-sm">From how it is wired to how it is to be</h3>
      <p className="max-w-[72ch] text-mute text-xs">
        New wire is laid beside the old first; then zone by zone gaps are cut and feeders go over, the zone that leaves
        most of the railroad running first; what hangs without use goes last.
      </p>
      <form
        className="mt-2.5 flex max-w-[900px] flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!bad) void ask();
        }}
      >
        <div className="min-w-[220px] flex-1">
          <label htmlFor={ids.before} className="mb-0.5 block text-[11.5px] text-mute">
            Wired by change
          </label>
          <select
            id={ids.before}
            className="field"
            value={first}
            onChange={(e) => {
              setBefore(Number(e.target.value));
              setOrder(null);
            }}
          >
            {options}
          </select>
          {hasNextPage ? (
            <button
              type="button"
              className="mt-1 text-link text-xs underline"
              disabled={isFetchingNextPage}
              onClick={() => void fetchNextPage()}
            >
              {isFetchingNextPage ? "Reading…" : "Older changes too"}
            </button>
          ) : null}
        </div>
        <div className="min-w-[220px] flex-1">
          <label htmlFor={ids.after} className="mb-0.5 block text-[11.5px] text-mute">
            To be wired by change
          </label>
          <select
            id={ids.after}
            className="field"
            value={last}
            onChange={(e) => {
              setAfter(Number(e.target.value));
              setOrder(null);
            }}
          >
            {options}
          </select>
        </div>
        <div className="w-28">
          <label htmlFor={ids.hours} className="mb-0.5 block text-[11.5px] text-mute">
            Hours an evening
          </label>
          <input
            id={ids.hours}
            className="field figure"
            value={hours}
            inputMode="decimal"
            aria-invalid={bad}
            onChange={(e) => setHours(e.target.value)}
          />
        </div>
        <button type="submit" className="btn-main" disabled={done !== null || bad}>
          {done ? "Ordering…" : "Order the work"}
        </button>
        <Progress done={done} onStop={stop} />
      </form>
      {bad ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          Hours from 0.5 to 24.
        </p>
      ) : null}
      {wrong || unwritten ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong ?? unwritten}
        </p>
      ) : null}
      {order ? (
        <>
          <div className="mt-4 flex max-w-[900px] flex-wrap items-center gap-2">
            <h3 className="flex-1 font-bold text-sm">
              {jobs
                ? `${many(jobs, "job")}, ${many(order.evenings.length, "evening")}`
                : "Nothing to do: both are wired alike"}
            </h3>
            {jobs ? (
              <>
                <button
                  type="button"
                  className="btn flex items-center gap-1.5"
                  disabled={writing !== null}
                  onClick={() => void get("PDF", file("change-order.pdf"))}
                >
                  <Download size={14} aria-hidden="true" /> {writing ? "Writing…" : "PDF"}
                </button>
                <button
                  type="button"
                  className="btn"
                  disabled={writing !== null}
                  onClick={() => void get("CSV", file("change-order.csv"))}
                >
                  CSV
                </button>
                <a className="btn" href={file("change-order.html")} target="_blank" rel="noreferrer">
                  To print
                </a>
              </>
            ) : null}
          </div>
          {order.evenings.map((e) => (
            <details
              key={e.number}
              className="mt-2 max-w-[900px] rounded-lg border border-line bg-card"
              open={e.number === 1}
            >
              <summary className="flex cursor-pointer items-baseline gap-3 px-3 py-2">
                <b className="w-20">Evening {e.number}</b>
                <span className="text-mute">
                  {many(e.jobs.length, "job")}, {bound(e.hours_text)}
                </span>
                <span className="flex-1 truncate text-right text-mute">
                  {e.dark_text ? `dark: ${e.dark_text}` : ""}
                </span>
                <Bar share={e.running} tone="verd" />
                <span className={`figure w-20 text-right ${e.running < 1 ? "text-oxide" : ""}`}>
                  {bound(e.running_text)} runs
                </span>
              </summary>
              <ol className="border-line border-t px-3 py-1">
                {e.jobs.map((j) => (
                  <li key={j.key} className="flex gap-3 border-line border-b py-1 last:border-0">
                    <span className="w-24 flex-none text-mute">{j.board || "—"}</span>
                    <span>{bound(j.words)}</span>
                  </li>
                ))}
              </ol>
            </details>
          ))}
        </>
      ) : null}
    </div>
  );
}
