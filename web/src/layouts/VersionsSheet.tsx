import { useState } from "react";
import type { Shape } from "../api/client";
import { Sheet } from "../parts/Sheet";
import { momentOf } from "../parts/when";
import { copyLayout, nameVersion, unnameVersion } from "./acts";
import { NameSheet } from "./NameSheet";
import { useChanges, useVersions } from "./queries";

/** Every change of a layout; those with a name stand out. */
export function VersionsSheet({
  layout,
  onCompare,
  onClose,
}: {
  layout: Shape["ListedLayout"];
  onCompare: (number: number) => void;
  onClose: () => void;
}) {
  const { data: versions } = useVersions(layout.id);
  const { data, hasNextPage, fetchNextPage } = useChanges(layout.id);
  const [naming, setNaming] = useState<number | null>(null);
  const [copying, setCopying] = useState<number | null>(null);
  const named = new Map(versions?.map((v) => [v.number, v]));
  const changes = data?.pages.flat() ?? [];
  return (
    <Sheet
      title={`Versions of ${layout.name}`}
      lead="Give a change a name to find it again: “as wired for the open day”."
      onClose={onClose}
    >
      <ul className="mt-3 text-[12.5px]" aria-label="Changes">
        {changes.map((c) => {
          const version = named.get(c.number);
          return (
            <li key={c.number} className="border-line border-t py-1.5">
              <div className="flex items-baseline gap-2">
                <span className="figure w-9 shrink-0 text-right text-mute">{c.number}</span>
                <span className="min-w-0 flex-1">
                  {version ? <b className="block">{version.name}</b> : null}
                  {version?.note ? <span className="block text-xs">{version.note}</span> : null}
                  {c.summary}
                  <span className="block text-mute text-xs">
                    {momentOf(c.made)}
                    {c.who ? `, by ${c.who}` : ""}
                  </span>
                </span>
              </div>
              <div className="flex gap-3 pl-11">
                <button type="button" className="act" onClick={() => setNaming(c.number)}>
                  {version ? "Another name…" : "Name it…"}
                </button>
                {version ? (
                  <button type="button" className="act" onClick={() => void unnameVersion(layout.id, c.number)}>
                    Take the name away
                  </button>
                ) : null}
                <button type="button" className="act" onClick={() => onCompare(c.number)}>
                  Compare with now
                </button>
                <button type="button" className="act" onClick={() => setCopying(c.number)}>
                  Copy…
                </button>
              </div>
            </li>
          );
        })}
      </ul>
      {hasNextPage ? (
        <button type="button" className="btn mt-2" onClick={() => void fetchNextPage()}>
          Older changes
        </button>
      ) : null}
      {naming !== null ? (
        <NameSheet
          title={`Name change ${naming}`}
          lead="The change itself stays as it is."
          start={named.get(naming)?.name}
          note={named.get(naming)?.note ?? ""}
          does="Name it"
          onDo={(name, note) => nameVersion(layout.id, naming, name, note)}
          onClose={() => setNaming(null)}
        />
      ) : null}
      {copying !== null ? (
        <NameSheet
          title={`Copy change ${copying} of ${layout.name}`}
          lead="A layout of its own, as it was after that change."
          start={named.get(copying)?.name ?? `${layout.name}, change ${copying}`}
          does="Copy it"
          onDo={(name) => copyLayout(layout.id, name, copying)}
          onClose={() => setCopying(null)}
        />
      ) : null}
    </Sheet>
  );
}
