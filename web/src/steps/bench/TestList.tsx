import { useEffect, useMemo, useRef } from "react";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { useProving } from "../../store/proving";
import { type Bench, type Test, useTests } from "./queries";
import { MARK, minutes, SAYS, TONE } from "./states";

const WHICH = [
  ["must", "Fewest places that matter"],
  ["every part", "Every part, one ampere"],
  ["every joint", "Every joint, one ampere"],
  ["building", "All, while building"],
  ["due", "Due, changed or not sound"],
  ["touched", "Touched since a change"],
] as const;
type Which = (typeof WHICH)[number][0];
const TIERS = ["must", "every part", "every joint"];

/** The tests of a choice, in the order they are best done. */
export function chosenTests(data: Bench | undefined, which: Which, board: string): Test[] {
  const all = (data?.tests ?? []).filter((t) => !board || t.board === board);
  if (which === "building") return all.filter((t) => t.kind !== "load" || t.tier === "must");
  if (which === "touched") return all.filter((t) => t.touched && (t.kind !== "load" || t.tier === "must"));
  if (which === "due") return all.filter((t) => ["due", "changed", "bad", "unsure"].includes(t.state));
  const deep = TIERS.indexOf(which);
  return all.filter((t) => t.kind === "load" && TIERS.indexOf(t.tier) <= deep);
}

export function useChoice() {
  const { which: asked, board, since: from } = useProving();
  const which = WHICH.find(([key]) => key === asked)?.[0] ?? "must";
  const revision = useLayout((s) => s.state?.revision ?? 1);
  const since = Math.min(from ?? Math.max(revision - 1, 1), revision);
  const { data } = useTests(which === "touched" ? since : null);
  const tests = useMemo(() => chosenTests(data, which, board), [data, which, board]);
  return { data, which, board, tests, since, revision };
}

/** What is to be metered, with where each test stands; inked on the plan as it is chosen here. */
export function TestList() {
  const { data, which, board, tests, since, revision } = useChoice();
  const chosen = useProving((s) => s.test);
  const set = useProving((s) => s.set);
  const show = useBench((s) => s.show);
  const row = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    useBench.setState({
      proofs: tests.flatMap((t) =>
        t.x === null || t.y === null
          ? []
          : [{ key: t.key, x: t.x, y: t.y, state: MARK[t.state], words: `${t.title}: ${SAYS[t.state]}` }],
      ),
    });
  }, [tests]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another test in hand comes into view in the list
  useEffect(() => {
    row.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  if (!data) return <p className="p-3 text-mute">Working out what every place should read…</p>;
  const tier = data.tiers.find((t) => t.tier === which);
  const left = tests.filter((t) => t.state !== "sound").reduce((sum, t) => sum + t.minutes, 0);
  return (
    <section aria-label="Tests" className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3 pb-1.5 text-xs">
        <label className="flex items-center gap-1.5">
          <span className="text-mute">Which</span>
          <select className="field w-auto py-0.5" value={which} onChange={(e) => set({ which: e.target.value })}>
            {WHICH.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </label>
        {which === "touched" ? (
          <label className="flex items-center gap-1.5">
            <span className="text-mute">change</span>
            <input
              className="field figure w-16 py-0.5"
              type="number"
              min={1}
              max={revision}
              value={since}
              onChange={(e) => e.target.value && set({ since: Number(e.target.value) })}
            />
          </label>
        ) : null}
        <label className="flex items-center gap-1.5">
          <span className="text-mute">Board</span>
          <select className="field w-auto py-0.5" value={board} onChange={(e) => set({ board: e.target.value })}>
            <option value="">all</option>
            {data.boards.map((b) => (
              <option key={b}>{b}</option>
            ))}
          </select>
        </label>
        <span className="text-mute">
          {bound(`${tests.length} tests, about ${minutes(left)} to go`)}
          {tier?.places
            ? `; ${tier.places === tier.least ? "no fewer places do" : `no set of fewer than ${tier.least} does`}. It proves ${tier.words}.`
            : "."}
        </span>
        {tier && data.unseen.length && which !== "must" ? (
          <span className="text-mute">Meter by hand before they are tied: {data.unseen.join(", ")}.</span>
        ) : null}
      </div>
      <ul className="min-h-0 overflow-auto border-line border-t" data-testid="tests">
        {tests.map((t) => (
          <li key={t.key}>
            <button
              ref={t.key === chosen ? row : undefined}
              type="button"
              aria-current={t.key === chosen ? "true" : undefined}
              className={`grid w-full grid-cols-[minmax(0,1.3fr)_minmax(0,2fr)_minmax(88px,auto)_104px] items-baseline gap-2.5 border-line border-b px-3 py-1 text-left text-[12px] hover:bg-board ${t.key === chosen ? "bg-board" : ""}`}
              onClick={() => {
                set({ test: t.key });
                if (t.track !== null && t.at !== null) show(null, { track: t.track, at: t.at }, [t.track]);
              }}
            >
              <span className="truncate font-medium" title={t.title}>
                {bound(t.title)}
              </span>
              <span className="truncate text-mute" title={t.where}>
                {bound(t.where)}
              </span>
              <span className="figure whitespace-nowrap">{bound(t.last?.shown || t.band || "")}</span>
              <span className={TONE[t.state]}>{SAYS[t.state]}</span>
            </button>
          </li>
        ))}
        {!tests.length ? (
          <li className="p-3 text-mute">
            {which === "touched"
              ? "Nothing that is metered has changed since then."
              : which === "due"
                ? "Nothing is due: readings older than a year, changed wiring and what read not sound would stand here."
                : "Nothing here yet. Loaded tests come with wire, feeders and a source; gaps and frogs stand under All, while building."}
          </li>
        ) : null}
      </ul>
    </section>
  );
}
