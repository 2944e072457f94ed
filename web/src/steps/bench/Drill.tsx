import { useEffect, useState } from "react";
import { bound } from "../../parts/bound";
import { CopyLink } from "../../parts/CopyLink";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { linkedDrill, useProving } from "../../store/proving";
import { type Act, useDrill } from "./queries";
import { minutes } from "./states";

const LEVELS = [
  ["easy", "Easy"],
  ["fair", "Fair"],
  ["hard", "Hard"],
] as const;
type Level = (typeof LEVELS)[number][0];
const SEEDS = 1_000_000;

/** The drill in hand on this layout; one that a link brings is taken up. */
function useInHand() {
  const drill = useProving((s) => s.drill);
  const set = useProving((s) => s.set);
  const layout = useLayout((s) => s.state?.id) ?? "";
  useEffect(() => {
    const led = layout ? linkedDrill() : null;
    if (led) set({ drill: { layout, ...led, tried: [] } });
  }, [layout, set]);
  const mine = drill?.layout === layout ? drill : null;
  const answer = useDrill(mine?.seed ?? null, mine?.hardness ?? "fair", mine?.tried ?? []);
  return { mine, layout, set, ...answer };
}

/** A hidden fault: the clock, what was tried, and afterwards where the time went. */
export function DrillCard() {
  const { mine, layout, set, data, error } = useInHand();
  const [level, setLevel] = useState<Level>("fair");
  const begin = (hardness: Level) =>
    set({ drill: { layout, seed: Math.floor(Math.random() * SEEDS), hardness, tried: [] } });
  if (!mine || error)
    return (
      <form
        className="p-3.5 text-[12.8px]"
        aria-label="Drill"
        onSubmit={(event) => {
          event.preventDefault();
          begin(level);
        }}
      >
        <h2 className="mb-1 font-bold text-sm">A fault is hidden on this railroad</h2>
        <p className="mb-2">
          Look, lift, open plugs, meter; the clock runs by the table of minutes, not by the wall. Afterwards you see the
          best way beside yours. Nothing of it goes into the log.
        </p>
        {error ? (
          <p role="alert" className="mb-2 text-oxide">
            {(error as Error).message}
          </p>
        ) : null}
        <fieldset className="mb-3 flex gap-3">
          <legend className="mb-1 text-mute text-xs">How hard</legend>
          {LEVELS.map(([key, words]) => (
            <label key={key} className="flex items-center gap-1.5">
              <input type="radio" name="level" checked={level === key} onChange={() => setLevel(key)} />
              {words}
            </label>
          ))}
        </fieldset>
        <button type="submit" className="btn btn-go">
          Hide a fault
        </button>
      </form>
    );
  if (!data) return <p className="p-3 text-mute">Hiding a fault…</p>;
  const score = data.score;
  return (
    <div className="flex flex-col gap-3 p-3.5 text-[12.8px]" data-testid="drill">
      <header className="flex items-start gap-2">
        <h2 className="min-w-0 flex-1 font-bold text-sm">Drill: {bound(data.words)}</h2>
        <span className="figure text-[15px]">{minutes(data.minutes)}</span>
      </header>
      {score ? (
        <section aria-label="Score" className="rounded-lg border-2 border-verd p-3">
          <p className="text-[15px] font-semibold leading-snug">It was {bound(score.cause)}</p>
          <p className="mt-1">
            You: <b className="figure">{bound(minutes(score.minutes))}</b>. The best way:{" "}
            <b className="figure">{bound(minutes(score.par))}</b>. All in order:{" "}
            <b className="figure">{bound(minutes(score.in_order))}</b>.
          </p>
          {score.lesson ? <p className="mt-1 text-mute">{bound(score.lesson)}</p> : null}
          <p className="mt-1 text-mute">{score.mend}</p>
          <Path title="The best way, on this fault" steps={score.best} />
          <div className="mt-2 flex gap-2">
            <button type="button" className="btn btn-go" onClick={() => begin(mine.hardness)}>
              Another
            </button>
            <button type="button" className="btn" onClick={() => set({ drill: null })}>
              Enough
            </button>
          </div>
        </section>
      ) : (
        <p className="text-mute">
          Choose what to do from the list below or on the plan. {data.acts.length} things can be tried.
        </p>
      )}
      {data.steps.length ? <Path title={score ? "Your way" : "So far"} steps={data.steps} /> : null}
      <footer className="flex flex-wrap items-center gap-2 text-xs">
        <span className="text-mute">
          Fault no. {data.seed}, {data.hardness}
        </span>
        <CopyLink
          link={() => `${location.origin}/l/${layout}/bench/drill?drill=${data.seed}-${data.hardness}`}
          words="Copy link to this drill"
        />
        {score ? null : (
          <button type="button" className="act" onClick={() => set({ drill: null })}>
            Give up
          </button>
        )}
      </footer>
    </div>
  );
}

type Step = { words: string; said: string; minutes: number; left: number };

/** What was tried, one under another, each with the clock and the doubt that was left. */
function Path({ title, steps }: { title: string; steps: Step[] }) {
  const most = Math.max(...steps.map((s) => s.left), 1);
  return (
    <section aria-label={title}>
      <h3 className="mt-1 font-semibold">{title}</h3>
      <ol className="text-xs">
        {steps.map((s) => (
          <li
            key={`${s.minutes}:${s.words}`}
            className="grid grid-cols-[40px_minmax(0,1fr)_48px] items-center gap-1.5 border-line border-b py-0.5"
          >
            <span className="figure text-mute">{minutes(s.minutes)}</span>
            <span>
              {bound(s.words)}: <b>{bound(s.said)}</b>
            </span>
            <span className="h-1.5 rounded bg-board" title={`${s.left.toFixed(1)} bits of doubt left`}>
              <span className="block h-full rounded bg-copper" style={{ width: `${(100 * s.left) / most}%` }} />
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

const GROUPS: readonly (readonly [string, (a: Act) => boolean])[] = [
  ["Meter", (a) => a.unit !== ""],
  ["Open and lift", (a) => a.unit === "" && a.answers[0]?.said === "yes"],
  ["Look and search", (a) => a.answers[0]?.said === "found"],
];

/** Everything that can be tried in the drill, as buttons. */
export function Acts() {
  const { mine, set, data } = useInHand();
  const [filter, setFilter] = useState("");
  const acts = data?.acts;
  useEffect(() => {
    useBench.setState({
      proofs: (acts ?? [])
        .filter((a) => a.unit !== "")
        .flatMap((a) =>
          a.x === null || a.y === null ? [] : [{ key: a.key, x: a.x, y: a.y, state: "open" as const, words: a.words }],
        ),
    });
  }, [acts]);
  const chosen = useProving((s) => s.test);
  useEffect(() => {
    // A place clicked on the plan is a reading taken there.
    if (mine && chosen && acts?.some((a) => a.key === chosen)) {
      set({ drill: { ...mine, tried: [...mine.tried, chosen] }, test: null });
    }
  }, [chosen, mine, acts, set]);
  if (!mine || !data) return <p className="p-3 text-mute">What can be tried stands here once a fault is hidden.</p>;
  if (data.score) return <p className="p-3 text-mute">Found. The way there is told beside the plan.</p>;
  const wanted = filter.trim().toLowerCase();
  const shown = data.acts.filter((a) => !wanted || a.words.toLowerCase().includes(wanted));
  return (
    <section aria-label="What can be tried" className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
      <label className="flex items-center gap-2 px-3 pb-1.5 text-xs">
        <span className="text-mute">Find</span>
        <input className="field w-56 py-0.5" value={filter} onChange={(e) => setFilter(e.target.value)} />
      </label>
      <div className="grid min-h-0 grid-cols-3 gap-3 overflow-auto border-line border-t px-3 pt-1.5">
        {GROUPS.filter(([, of]) => shown.some(of)).map(([name, of]) => (
          <section key={name} aria-label={name}>
            <h3 className="text-mute text-xs">{name}</h3>
            <ul>
              {shown.filter(of).map((a) => (
                <li key={a.key}>
                  <button
                    type="button"
                    className="w-full rounded px-1 py-0.5 text-left text-[12px] hover:bg-board"
                    title={a.how}
                    onClick={() => set({ drill: { ...mine, tried: [...mine.tried, a.key] } })}
                  >
                    {bound(a.words)} <span className="text-mute">{bound(minutes(Math.max(a.minutes, 1)))}</span>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
    </section>
  );
}
