import { useState } from "react";
import { type Shape, send } from "../../api/client";
import { useWhere } from "../../api/queries";
import { FilePick } from "../../parts/FilePick";
import { pathOf, useFile } from "../../parts/useFile";
import { Dates } from "./Dates";

/** What goes into other hands: one page for a stranger, names for a controlling program, dates, and everything in one file. */
export function HandOver() {
  const { id, revision, scene } = useWhere();
  const { writing, wrong, get } = useFile();
  const file = (name: string) => pathOf(`/api/layouts/${id}/files/${name}`, { revision: null, scene });
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4 text-[12.5px]" data-testid="hand-over">
      <div className="grid max-w-[1080px] gap-4 lg:grid-cols-2">
        <section aria-label="Read me first" className="rounded-lg border border-line bg-card p-3">
          <h3 className="font-bold text-sm">Read me first</h3>
          <p className="mt-0.5 text-mute">
            One page for a stranger who must run, test and mend the railroad: made from the layout, its last tests and
            its open troubles. It is the first page of the book.
          </p>
          <a
            className="btn mt-2 inline-block"
            href={pathOf(`/api/layouts/${id}/files/book.html`, { revision, scene, chapters: "read-me" })}
            target="_blank"
            rel="noreferrer"
          >
            Open it
          </a>
        </section>
        <section aria-label="Archive" className="rounded-lg border border-line bg-card p-3">
          <h3 className="font-bold text-sm">Everything in one file</h3>
          <p className="mt-0.5 text-mute">
            The layout with its whole history, work, readings, notes, photos, the book as PDF and an index in plain
            words. It reads without this program; <b>All layouts</b> takes it in again whole.
          </p>
          <button
            type="button"
            className="btn-main mt-2"
            disabled={writing !== null}
            onClick={() => void get("Archive", file("archive.zip"))}
          >
            {writing === "Archive" ? "Packing it…" : "Archive"}
          </button>
          {wrong ? (
            <p role="alert" className="mt-1.5 text-oxide text-xs">
              {wrong}
            </p>
          ) : null}
        </section>
        <NamesOut key={`${id} ${revision}`} />
        <Dates />
      </div>
    </div>
  );
}

function NamesOut() {
  const { id } = useWhere();
  const [told, setTold] = useState<Shape["ComparedShape"] | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  const compare = async (file: File) => {
    setWhy(null);
    setTold(null);
    try {
      setTold(await send<Shape["ComparedShape"]>(`/api/layouts/${id}/names/compare`, file));
    } catch (error) {
      setWhy((error as Error).message);
    }
  };
  return (
    <section aria-label="Names and numbers" className="rounded-lg border border-line bg-card p-3">
      <h3 className="font-bold text-sm">Names and numbers</h3>
      <p className="mt-0.5 text-mute">
        Sections, turnouts, signals, routes and the block graph, for the club's controlling program. A list that comes
        back is compared: what is missing, what differs, what is there twice. Nothing is changed by it.
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <a className="btn" href={`/api/layouts/${id}/files/names.csv`} download>
          names.csv
        </a>
        <a className="btn" href={`/api/layouts/${id}/files/names.json`} download>
          names.json
        </a>
        <FilePick label="List to compare" accept=".csv,.json,text/csv,application/json" onPick={(f) => void compare(f)}>
          Compare a list…
        </FilePick>
      </div>
      {why ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          {why}
        </p>
      ) : null}
      {told ? (
        <div className="mt-2" role="status" data-testid="names-compared">
          <b>{told.words}</b>
          <ul className="max-h-64 list-disc overflow-y-auto pl-4 text-[11.5px]">
            {told.wrong.map((w) => (
              <li key={`${w.how} ${w.words}`}>
                <span className="text-mute">{w.how}:</span> {w.words}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
    </section>
  );
}
