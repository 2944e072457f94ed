import { useState } from "react";
import type { Shape } from "../api/client";
import { Sheet } from "../parts/Sheet";
import { dayOf, momentOf } from "../parts/when";
import { useLayout } from "../store/layout";
import { archiveLayout, copyLayout, deleteLayout, openLayout, renameLayout } from "./acts";
import { NameSheet } from "./NameSheet";
import { Picture } from "./Picture";
import { useCard } from "./queries";

type Listed = Shape["ListedLayout"];
const many = (count: number, one: string, more = `${one}s`) => `${count} ${count === 1 ? one : more}`;

/** One layout of the club file: its picture, its size, and what can be done with it. */
export function LayoutCard({
  layout,
  onVersions,
  onCompare,
}: {
  layout: Listed;
  onVersions: () => void;
  onCompare: () => void;
}) {
  const open = useLayout((s) => s.state?.id === layout.id);
  const { data: card } = useCard(layout.id, layout.revision);
  const [asks, setAsks] = useState<"copy" | "rename" | "delete" | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const close = () => setAsks(null);
  return (
    <article
      aria-label={layout.name}
      className={`flex flex-col overflow-hidden rounded-xl border bg-card ${open ? "border-copper" : "border-line"}`}
    >
      <button
        type="button"
        className="block h-36 border-line border-b bg-paper p-2 hover:bg-board"
        aria-label={`Open ${layout.name}`}
        onClick={() => void openLayout(layout.id)}
      >
        {card ? (
          <Picture picture={card.picture} />
        ) : (
          <span className="block h-full animate-pulse rounded bg-board" aria-hidden="true" />
        )}
      </button>
      <div className="flex flex-1 flex-col gap-1 p-3">
        <h3 className="font-bold text-sm [overflow-wrap:anywhere]">
          {layout.name}
          {open ? <span className="ml-2 rounded bg-board px-1.5 font-normal text-[11px]">open</span> : null}
        </h3>
        <p className="text-mute text-xs">
          {card
            ? card.tracks
              ? `${many(card.tracks, "track")}, ${card.length_text}; ${many(card.pairs, "pair")} of wire`
              : "Nothing drawn yet"
            : "…"}
        </p>
        <p className="text-mute text-xs">
          Change {layout.revision}, {momentOf(layout.made)}
          {layout.who ? `, by ${layout.who}` : ""}
        </p>
        <div className="mt-auto flex flex-wrap gap-x-3 gap-y-1 pt-2">
          <button type="button" className="act" onClick={() => setAsks("copy")}>
            Copy…
          </button>
          <button type="button" className="act" onClick={() => setAsks("rename")}>
            Rename…
          </button>
          <button type="button" className="act" onClick={onVersions}>
            Versions…
          </button>
          <button type="button" className="act" onClick={onCompare}>
            Compare…
          </button>
          <button
            type="button"
            className="act"
            onClick={async () => setWrong(await archiveLayout(layout.id, !layout.archived))}
          >
            {layout.archived ? "Out of the archive" : "Archive"}
          </button>
          <button type="button" className="act" onClick={() => setAsks("delete")}>
            Delete…
          </button>
        </div>
        {wrong ? (
          <p role="alert" className="text-oxide text-xs">
            {wrong}
          </p>
        ) : null}
      </div>
      {asks === "copy" ? (
        <NameSheet
          title={`Copy ${layout.name}`}
          lead="To try something on. Work logged under the boards stays with the first one."
          start={`${layout.name}, copy`}
          does="Copy it"
          onDo={(name) => copyLayout(layout.id, name)}
          onClose={close}
        />
      ) : null}
      {asks === "rename" ? (
        <NameSheet
          title={`Rename ${layout.name}`}
          lead="Its links go on working."
          start={layout.name}
          does="Rename it"
          onDo={(name) => renameLayout(layout.id, name)}
          onClose={close}
        />
      ) : null}
      {asks === "delete" ? (
        <Sheet
          title={`Delete ${layout.name}?`}
          lead={
            card
              ? `It can be put back with everything until ${dayOf(new Date(Date.now() + card.way_back_days * 864e5).toISOString())}.`
              : "It can be put back with everything for a time."
          }
          onClose={close}
        >
          <p className="mt-3 text-[13px]">
            What goes: {many(layout.revision, "change")}
            {card
              ? `, ${many(card.versions, "named version")} and ${many(card.logged, "task")} logged under the boards`
              : ""}
            .
          </p>
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn" onClick={close}>
              Leave it
            </button>
            <button
              type="button"
              className="btn-main"
              onClick={async () => {
                setWrong(await deleteLayout(layout.id));
                close();
              }}
            >
              Delete it
            </button>
          </div>
        </Sheet>
      ) : null}
    </article>
  );
}
