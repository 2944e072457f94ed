import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { type Aside, useUnder } from "./store";

/** A file of what was set aside, so that nothing a helper noted is lost. */
function saveAsFile(layout: string, aside: Aside[]) {
  const lines = aside.map(({ entry, why }) =>
    [entry.done, entry.who, entry.task, entry.state, entry.reading, entry.note, `refused: ${why}`].join(" | "),
  );
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([`${lines.join("\n")}\n`], { type: "text/plain" }));
  link.download = `${layout}-set-aside.txt`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Entries the club's computer does not take: what each says, why not, and what can be done. */
export function AsideList() {
  const { aside, pages, layout, mend, drop } = useUnder();
  const [sure, setSure] = useState<string | null>(null);
  if (!aside.length) return null;
  const labels = new Map(pages?.boards.flatMap((b) => b.tasks.map((t) => [t.key, `${b.name}: ${t.label}`] as const)));
  return (
    <section aria-label="Set aside" className="mx-4 mt-2 rounded-xl border border-oxide px-3.5 py-2.5 text-[14px]">
      <h2 className="flex items-center gap-2 font-bold">
        <TriangleAlert size={16} aria-hidden="true" className="text-oxide" />
        {aside.length === 1 ? "One entry was not taken" : `${aside.length} entries were not taken`}
      </h2>
      <p className="text-mute">All others go their way. Nothing is lost until you throw it away.</p>
      <ul>
        {aside.map(({ entry, why }) => (
          <li key={entry.id} className="mt-2 border-line border-t pt-2">
            <b>{labels.get(entry.task) ?? entry.task}</b>, {entry.state}
            {entry.reading ? `, read ${entry.reading}` : ""}
            {entry.note ? <span className="block">“{entry.note}”</span> : null}
            <span className="block text-oxide">{why}</span>
            <span className="mt-1.5 flex gap-2">
              <button
                type="button"
                className="h-11 flex-1 rounded-lg border border-line font-semibold"
                onClick={() => mend(entry.id)}
              >
                Send as of now
              </button>
              <button
                type="button"
                className="h-11 flex-1 rounded-lg border border-line"
                onClick={() => (sure === entry.id ? drop(entry.id) : setSure(entry.id))}
              >
                {sure === entry.id ? "Really throw away" : "Throw away"}
              </button>
            </span>
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="mt-2 h-11 w-full rounded-lg border border-line"
        onClick={() => saveAsFile(layout, aside)}
      >
        Save as a file
      </button>
    </section>
  );
}
