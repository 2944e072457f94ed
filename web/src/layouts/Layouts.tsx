import { useState } from "react";
import { answer, api } from "../api/client";
import { useLayouts } from "../api/queries";
import { TakeIn } from "../parts/TakeIn";
import { dayOf } from "../parts/when";
import { NewLayout } from "../shell/NewLayout";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { openLayout, putBack } from "./acts";
import { Compare } from "./Compare";
import { LayoutCard } from "./LayoutCard";
import { type At, useDeleted } from "./queries";
import { VersionsSheet } from "./VersionsSheet";

/** Every layout of the club file: to open, copy, rename, put away, delete and have back, and to compare. */
export function Layouts() {
  const { data: layouts } = useLayouts();
  const { data: deleted } = useDeleted();
  const set = useBench((s) => s.set);
  const take = useLayout((s) => s.take);
  const [versions, setVersions] = useState<string | null>(null);
  const [pair, setPair] = useState<[At, At] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  if (!layouts) return <p className="p-6 text-mute">Looking through the club file…</p>;
  if (pair) return <Compare layouts={layouts} start={pair} onClose={() => setPair(null)} />;
  const now = (id: string): At => ({ id, number: null });
  const other = (id: string) => layouts.find((l) => l.id !== id)?.id ?? id;
  const shown = layouts.find((l) => l.id === versions);
  const cards = (archived: boolean) =>
    layouts
      .filter((l) => Boolean(l.archived) === archived)
      .map((l) => (
        <LayoutCard
          key={l.id}
          layout={l}
          onVersions={() => setVersions(l.id)}
          onCompare={() => setPair([now(l.id), now(other(l.id))])}
        />
      ));
  const archive = cards(true);
  const grid = "grid grid-cols-[repeat(auto-fill,minmax(260px,1fr))] gap-4";
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[1180px] p-5">
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <h2 className="mr-auto font-bold text-lg">Layouts in this club file</h2>
          <NewLayout main />
          <TakeIn />
          <button
            type="button"
            className="btn"
            onClick={async () => {
              const state = await answer(api.POST("/api/demo"));
              take(state);
              await openLayout(state.id);
            }}
          >
            Add the demo railroad
          </button>
          <button type="button" className="btn" onClick={() => set({ club: "file" })}>
            Club file and copies…
          </button>
        </div>
        {layouts.length ? null : (
          <p className="rounded-xl border border-line bg-card p-5 text-mute">
            No layout yet. Start one of your own, open a layout file somebody gave you, or look round the demo railroad.
          </p>
        )}
        <div className={grid}>{cards(false)}</div>
        {archive.length ? (
          <section aria-label="Archive" className="mt-6">
            <h3 className="mb-2 font-bold">Archive</h3>
            <div className={grid}>{archive}</div>
          </section>
        ) : null}
        {deleted?.length ? (
          <section aria-label="Deleted" className="mt-6">
            <h3 className="font-bold">Deleted, and can be put back</h3>
            <ul className="mt-1 max-w-[640px]">
              {deleted.map((d) => (
                <li key={d.id} className="flex items-center gap-3 border-line border-t py-1.5">
                  <span className="min-w-0 flex-1 truncate">{d.name}</span>
                  <span className="text-mute text-xs">
                    deleted {dayOf(d.deleted)}, gone for good {dayOf(d.gone)}
                  </span>
                  <button type="button" className="btn" onClick={async () => setWrong(await putBack(d.id))}>
                    Put back
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ) : null}
        {wrong ? (
          <p role="alert" className="mt-2 text-oxide">
            {wrong}
          </p>
        ) : null}
      </div>
      {shown ? (
        <VersionsSheet
          layout={shown}
          onCompare={(number) => {
            setVersions(null);
            setPair([{ id: shown.id, number }, now(shown.id)]);
          }}
          onClose={() => setVersions(null)}
        />
      ) : null}
    </div>
  );
}
