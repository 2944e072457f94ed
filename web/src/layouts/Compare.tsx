import { useId, useState } from "react";
import type { Shape } from "../api/client";
import { momentOf } from "../parts/when";
import { Picture } from "./Picture";
import { type At, useChanges, useComparison, useVersions } from "./queries";

const HOW = { added: "Added", gone: "Gone", changed: "Changed" } as const;
const MARKS = { added: "+", gone: "−", changed: "≠" } as const;

/** Any two states beside each other: on the plan, in words, and what the difference does. */
export function Compare({
  layouts,
  start,
  onClose,
}: {
  layouts: Shape["ListedLayout"][];
  start: [At, At];
  onClose: () => void;
}) {
  const [from, setFrom] = useState(start[0]);
  const [to, setTo] = useState(start[1]);
  const [lit, setLit] = useState<string | null>(null);
  const { data, error, isPending, isPlaceholderData } = useComparison(from, to);
  return (
    <section aria-label="Compare" className="flex h-full min-h-0 flex-col">
      <div className="flex flex-wrap items-end gap-3 border-line border-b bg-card px-4 py-2.5">
        <State label="From" layouts={layouts} at={from} onChange={setFrom} />
        <State label="To" layouts={layouts} at={to} onChange={setTo} />
        <button
          type="button"
          className="btn"
          onClick={() => {
            setFrom(to);
            setTo(from);
          }}
        >
          Other way round
        </button>
        <span className="flex-1" />
        <button type="button" className="btn" onClick={onClose}>
          Back to the list
        </button>
      </div>
      {error ? <p className="p-4 text-oxide">{(error as Error).message}</p> : null}
      {isPending ? <p className="p-4 text-mute">Working both out…</p> : null}
      {data ? (
        <div
          className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(280px,380px)]"
          aria-busy={isPlaceholderData}
          data-testid="comparison"
        >
          <div className="flex min-h-0 flex-col p-3">
            <p className="flex gap-4 text-mute text-xs">
              <Key how="added" /> <Key how="gone" /> <Key how="changed" />
            </p>
            <div className="min-h-0 flex-1">
              <Picture
                picture={data.picture}
                lit={lit}
                label={`Plan of ${data.after}, with what differs from ${data.before}`}
              />
            </div>
          </div>
          <aside
            aria-label="What differs"
            className="min-h-0 overflow-y-auto border-line border-l bg-card p-3 text-[12.5px]"
          >
            <table className="w-full text-xs">
              <thead className="text-left text-mute">
                <tr>
                  <th className="font-medium"> </th>
                  <th className="pl-2 font-medium">Before</th>
                  <th className="pl-2 font-medium">After</th>
                </tr>
              </thead>
              <tbody>
                {data.outcomes.map((o) => (
                  <tr key={o.name} className="border-line border-t align-baseline">
                    <td className="py-1">{o.name}</td>
                    <td className="figure py-1 pl-2">{o.before}</td>
                    <td className={`figure py-1 pl-2 ${o.before === o.after ? "" : "font-semibold"}`}>{o.after}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <Titles title="Settled by it" titles={data.settled} />
            <Titles title="New to settle" titles={data.new} />
            <h3 className="mt-3 font-bold">
              {data.differences.length ? `${data.differences.length} things differ` : "Nothing differs"}
            </h3>
            {data.shared === 0 && data.differences.length ? (
              <p className="text-mute text-xs">Not one thing stands in both: these two were drawn apart.</p>
            ) : null}
            <ul>
              {data.differences.map((d) => {
                const thing = `${d.kind}:${d.id}`;
                return (
                  <li key={thing} className="border-line border-t">
                    <button
                      type="button"
                      className={`block w-full py-1 text-left hover:bg-board ${lit === thing ? "bg-board" : ""}`}
                      aria-pressed={lit === thing}
                      onClick={() => setLit(lit === thing ? null : thing)}
                    >
                      <span className="figure mr-1.5" aria-hidden="true">
                        {MARKS[d.how]}
                      </span>
                      {d.name} <span className="text-mute">{HOW[d.how].toLowerCase()}</span>
                      {d.words.map((w) => (
                        <span key={w} className="block pl-4 text-mute text-xs">
                          {w}
                        </span>
                      ))}
                    </button>
                  </li>
                );
              })}
            </ul>
          </aside>
        </div>
      ) : null}
    </section>
  );
}

function Key({ how }: { how: keyof typeof HOW }) {
  const ink = { added: "var(--verd)", gone: "var(--oxide)", changed: "var(--amber)" }[how];
  const dash = { added: undefined, gone: "9 5", changed: "2 3" }[how];
  return (
    <span className="flex items-center gap-1">
      <svg width="26" height="8" aria-hidden="true">
        <path d="M0 4H26" stroke={ink} strokeWidth="3" strokeDasharray={dash} />
      </svg>
      {HOW[how].toLowerCase()}
    </span>
  );
}

function Titles({ title, titles }: { title: string; titles: string[] }) {
  if (!titles.length) return null;
  return (
    <>
      <h3 className="mt-3 font-bold">
        {title} <span className="font-normal text-mute">{titles.length}</span>
      </h3>
      <ul className="list-disc pl-4 text-xs">
        {titles.map((t) => (
          <li key={t}>{t}</li>
        ))}
      </ul>
    </>
  );
}

function State({
  label,
  layouts,
  at,
  onChange,
}: {
  label: string;
  layouts: Shape["ListedLayout"][];
  at: At;
  onChange: (at: At) => void;
}) {
  const id = useId();
  const { data } = useChanges(at.id);
  const { data: versions } = useVersions(at.id);
  const changes = data?.pages.flat() ?? [];
  const named = new Map(versions?.map((v) => [v.number, v.name]));
  // A version older than the changes read so far can be chosen all the same.
  const older = versions?.filter((v) => !changes.some((c) => c.number === v.number)) ?? [];
  return (
    <fieldset className="flex items-end gap-1.5">
      <legend className="text-mute text-xs">{label}</legend>
      <select
        aria-label={`${label}: layout`}
        className="field w-44"
        value={at.id}
        onChange={(e) => onChange({ id: e.target.value, number: null })}
      >
        {layouts.map((l) => (
          <option key={l.id} value={l.id}>
            {l.name}
          </option>
        ))}
      </select>
      <select
        id={id}
        aria-label={`${label}: change`}
        className="field w-52"
        value={at.number ?? ""}
        onChange={(e) => onChange({ id: at.id, number: e.target.value ? Number(e.target.value) : null })}
      >
        <option value="">as it is now</option>
        {changes.map((c) => (
          <option key={c.number} value={c.number}>
            {named.has(c.number)
              ? `★ ${named.get(c.number)} (${c.number})`
              : `${c.number}, ${momentOf(c.made)}: ${c.summary}`}
          </option>
        ))}
        {older.map((v) => (
          <option key={v.number} value={v.number}>
            ★ {v.name} ({v.number})
          </option>
        ))}
      </select>
    </fieldset>
  );
}
