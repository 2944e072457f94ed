import { useState } from "react";
import { useBook } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Segmented } from "../../parts/Segmented";
import { useTab } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { ChangeOrders } from "./ChangeOrders";
import { Files } from "./Files";
import { HandOver } from "./HandOver";
import { LabelSheets } from "./LabelSheets";
import { Notebook } from "./Notebook";
import { Pages } from "./Pages";
import { ToBuy } from "./ToBuy";
import { Work } from "./Work";

const VIEWS = [
  ["pages", "Pages"],
  ["buy", "To buy"],
  ["labels", "Labels"],
  ["work", "Work done"],
  ["orders", "Change orders"],
  ["notes", "Notebook"],
  ["hand", "Hand over"],
] as const;

/** The wire book: read it, choose what to print, see what to buy, print labels. */
export function BookStep() {
  const { data, isPending } = useBook();
  const state = useLayout((s) => s.state);
  const [view, setView] = useTab(VIEWS);
  const [shown, setShown] = useState<string | null>(null);
  const [chosen, setChosen] = useState<string[]>([]);
  const empty = data?.pieces === 0;
  return (
    <div className="grid h-full min-h-0 grid-cols-[262px_minmax(0,1fr)]">
      <aside aria-label="Chapters" className="flex min-h-0 flex-col border-line border-r bg-card">
        <div className="p-3 pb-1">
          <h2 className="font-bold text-sm">The wire book</h2>
          <p className="text-mute text-xs">
            {data ? `Change ${data.revision}, ${data.pieces} pairs of wire. Tick chapters to print only those.` : "…"}
          </p>
        </div>
        <ul className="min-h-0 flex-1 overflow-y-auto px-1.5 pb-2 text-[12.5px]">
          {(data?.chapters ?? []).map((c) => (
            <li key={c.key} className="flex items-center gap-1.5 rounded-md px-1.5 hover:bg-board">
              <input
                type="checkbox"
                aria-label={`Print ${c.title}`}
                checked={chosen.includes(c.key)}
                onChange={(e) => setChosen(e.target.checked ? [...chosen, c.key] : chosen.filter((k) => k !== c.key))}
              />
              <button
                type="button"
                aria-current={view === "pages" && shown === c.key ? "true" : undefined}
                className={`min-w-0 flex-1 truncate py-[3px] text-left ${shown === c.key ? "font-semibold text-link" : ""}`}
                onClick={() => {
                  setView("pages");
                  setShown(c.key);
                }}
              >
                {bound(c.title)}
              </button>
            </li>
          ))}
        </ul>
        {data && state ? <Files chosen={chosen} clear={() => setChosen([])} /> : null}
      </aside>
      <section aria-label="Wire book" className="flex min-h-0 min-w-0 flex-col">
        <div className="flex flex-wrap items-center gap-2.5 border-line border-b bg-card px-3 py-2">
          <Segmented label="What of the book" value={view} options={VIEWS} onChange={setView} />
          <span className="flex-1" />
          <a className="btn" href={`/under?layout=${state?.id}`}>
            Under the boards
          </a>
        </div>
        {empty ? (
          <p className="border-line border-b bg-board px-4 py-2.5 text-[12.5px]">
            No wire is laid yet, so the book has little to say. In the step Wire, press <b>Lay it</b>, or draw runs and
            feeders by hand.
          </p>
        ) : null}
        {isPending ? <p className="p-4 text-mute">Writing the book…</p> : null}
        {data && view === "pages" ? <Pages shown={shown} /> : null}
        {view === "notes" ? <Notebook /> : null}
        {view === "hand" ? <HandOver /> : null}
        {data && view === "buy" ? <ToBuy book={data} /> : null}
        {data && view === "orders" ? <ChangeOrders /> : null}
        {data && view === "work" ? <Work /> : null}
        {data && view === "labels" ? <LabelSheets book={data} /> : null}
      </section>
    </div>
  );
}
