import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Shape } from "../../api/client";
import { useRails, useWhere } from "../../api/queries";
import { streamed } from "../../api/stream";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

type Proposed = Shape["Proposed"];
type Fixed = { keep: string[]; refuse: string[] };

/** Where to gap: ranked ways to settle each group of conflicts, each previewed and made as one change. */
export function Proposals() {
  const { id, revision, ready } = useWhere();
  const { data: rails } = useRails();
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  const control = useLayout((s) => s.state?.document.brief?.control);
  const [fixed, setFixed] = useState<Fixed>({ keep: [], refuse: [] });
  const [train, setTrain] = useState<number | null>(null);
  const [byHand, setByHand] = useState(false);
  const [steps, setSteps] = useState<[number, number]>([0, 0]);
  const open = rails?.conflicts.some((c) => !c.settled) ?? false;
  const query = new URLSearchParams({ revision: String(revision) });
  if (train) query.set("train", String(train));
  for (const k of fixed.keep) query.append("keep", k);
  for (const k of fixed.refuse) query.append("refuse", k);
  const { data, error, isFetching } = useQuery({
    queryKey: ["reversing", id, query.toString()],
    enabled: ready && open && control !== "ac3",
    retry: false,
    queryFn: () =>
      streamed<Proposed, { done?: number; total?: number }>(`/api/layouts/${id}/reversing?${query}`, (s) =>
        setSteps([s.done ?? 0, s.total ?? 0]),
      ),
  });
  if (!open || control === "ac3") return null;
  return (
    <section className="p-3" aria-label="Where to gap" data-testid="proposals" aria-busy={isFetching}>
      <h2 className="font-bold text-sm">Where to gap</h2>
      <div className="mt-1.5 grid grid-cols-[1fr_auto] items-end gap-2">
        <Typed
          label="Longest train that comes here"
          kind="length"
          shown={train ? (metric ? `${(train / 1000).toFixed(2)} m` : `${+(train / 304.8).toFixed(2)} ft`) : ""}
          placeholder={data ? data.train_text : "worked out from the trains"}
          clearable
          onTake={async (v) => {
            setTrain(typeof v === "number" ? v : null);
            return null;
          }}
        />
        {fixed.keep.length + fixed.refuse.length ? (
          <button type="button" className="btn" onClick={() => setFixed({ keep: [], refuse: [] })}>
            Forget my choices
          </button>
        ) : null}
        {control === "dcc" ? (
          <label className="col-span-2 flex items-center gap-1.5 text-xs">
            <input type="checkbox" checked={byHand} onChange={(e) => setByHand(e.target.checked)} />
            Turned over by a switch that somebody throws
          </label>
        ) : null}
      </div>
      {error ? <p className="mt-2 text-oxide text-xs">{(error as Error).message}</p> : null}
      {isFetching ? (
        <p className="mt-2 flex items-center gap-2 text-mute text-xs" role="status">
          <progress value={steps[0]} max={Math.max(steps[1], 1)} className="h-1.5 w-28" />
          Weighing places… {steps[1] ? `${steps[0]} of ${steps[1]}` : ""}
        </p>
      ) : null}
      {data?.groups.map((g, k) => (
        <Group
          train={train}
          byHand={byHand}
          // biome-ignore lint/suspicious/noArrayIndexKey: groups have no name of their own
          key={k}
          first={k === 0}
          group={g}
          fixed={fixed}
          onFix={setFixed}
        />
      ))}
      {data?.control.map((words) => (
        <p key={words} className="mt-2 text-[11.8px] text-mute leading-snug">
          {words}
        </p>
      ))}
    </section>
  );
}

type GroupProps = {
  first: boolean;
  group: Shape["GroupShape"];
  train: number | null;
  byHand: boolean;
  fixed: Fixed;
  onFix: (f: Fixed) => void;
};

function Group({ first, group, train, byHand, fixed, onFix }: GroupProps) {
  return (
    <div className="mt-2.5">
      <p className="text-[11.5px] text-mute">
        For: {group.conflicts.join("; ")}. {group.weighed} places weighed.
      </p>
      {group.no_room.map((words) => (
        <p key={words} role="alert" className="mt-1 text-[12px] text-oxide">
          {words}
        </p>
      ))}
      {group.options.map((option, k) => (
        <OptionCard
          key={option.label + option.why}
          train={train}
          byHand={byHand}
          option={option}
          rank={k}
          first={first && k === 0}
          fixed={fixed}
          onFix={onFix}
        />
      ))}
      {group.options.length === 0 && group.no_room.length === 0 ? (
        <p className="mt-1 text-[12px]">Nothing serves with these choices; take one of them back.</p>
      ) : null}
    </div>
  );
}

function OptionCard({
  option,
  train,
  byHand,
  rank,
  first,
  fixed,
  onFix,
}: {
  option: Shape["OptionShape"];
  train: number | null;
  byHand: boolean;
  rank: number;
  first: boolean;
  fixed: Fixed;
  onFix: (f: Fixed) => void;
}) {
  const set = useBench((s) => s.set);
  const { id, revision } = useWhere();
  const [mend, setMend] = useState<Shape["MendShape"] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const make = async () => {
    setBusy(true);
    setWrong(null);
    try {
      const key = option.sections.map((s) => s.key);
      setMend(
        await answer(
          api.GET("/api/layouts/{layout_id}/reversing/change", {
            params: { path: { layout_id: id }, query: { key, revision, train, by_hand: byHand } },
          }),
        ),
      );
    } catch (error) {
      setWrong((error as Error).message);
    }
    setBusy(false);
  };
  const gaps = option.sections.flatMap((s) => s.gaps.map((g) => ({ x: g.x ?? 0, y: g.y ?? 0 })));
  const places = gaps.map((g) => `${g.x},${g.y}`).join(" ");
  // The best of the list is inked without asking; whatever is pointed at, instead of it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the places are what is inked
  useEffect(() => {
    if (first) set({ ghostGaps: gaps });
  }, [first, places]);
  const look = () => set({ look: "reversing", ghostGaps: gaps, lit: option.sections.flatMap((s) => s.tracks) });
  return (
    <article
      className={`mt-1.5 rounded-[9px] border bg-paper px-2.5 py-2 ${rank ? "border-line" : "border-verd"}`}
      onMouseEnter={look}
      onFocus={look}
    >
      <h3 className="font-semibold text-[12.8px] leading-snug">
        {rank ? `${rank + 1}. ` : "Best: "}
        {option.sections
          .map((s, k) => (k ? s.title.charAt(0).toLowerCase() + s.title.slice(1) : s.title))
          .join(" and ")}
      </h3>
      <p className="text-[11.5px] text-mute">{bound(option.why)}</p>
      {option.sections.map((s) => (
        <ul key={s.key} className="mt-1 list-disc pl-4 text-[11.8px] leading-snug">
          {s.reasons.map((r) => (
            <li key={r}>{r}</li>
          ))}
        </ul>
      ))}
      <div className="mt-1.5 flex flex-wrap gap-x-3 gap-y-0.5">
        <button type="button" className="act font-semibold" disabled={busy} onClick={() => void make()}>
          {busy ? "Working it out…" : "Make it…"}
        </button>
        <button type="button" className="act" onClick={look}>
          Show
        </button>
        {option.sections.map((s) => (
          <span key={s.key} className="contents">
            <button
              type="button"
              className="act"
              aria-pressed={s.kept}
              onClick={() =>
                onFix({
                  keep: s.kept ? fixed.keep.filter((k) => k !== s.key) : [...fixed.keep, s.key],
                  refuse: fixed.refuse,
                })
              }
            >
              {s.kept ? "Kept; let it go" : "Keep this place"}
            </button>
            <button
              type="button"
              className="act"
              onClick={() => onFix({ keep: fixed.keep.filter((k) => k !== s.key), refuse: [...fixed.refuse, s.key] })}
            >
              Not here
            </button>
          </span>
        ))}
      </div>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      {mend ? (
        <Preview
          title={option.why}
          decides={option.why}
          mend={mend}
          onClose={() => setMend(null)}
          onMade={() => set({ ghostGaps: [] })}
        />
      ) : null}
    </article>
  );
}
