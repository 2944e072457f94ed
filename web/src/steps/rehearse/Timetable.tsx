import { Plus, X } from "lucide-react";
import { useState } from "react";
import { type Shape, send } from "../../api/client";
import { Columns } from "../../parts/Columns";
import { FilePick } from "../../parts/FilePick";
import { Choice } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import type { Plan } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { Figure } from "./EveningCard";
import { Facing, LengthOf, TrackChoice } from "./fields";
import { OfTrain } from "./OfTrain";
import { changePlan, trackName, usePlan } from "./usePlan";

type Planned = NonNullable<Plan["trains"]>[string];
type Call = NonNullable<Planned["calls"]>[number];
const BY = ["free", "calls", "hand", "parked"] as const;
const BY_WORDS = {
  free: "goes where signals let it",
  calls: "goes from place to place",
  hand: "a person drives it: By hand, or Live",
  parked: "stands",
};

/** The plan in hand as a table: every train, where it begins, how it runs, and its calls. */
export function Timetable() {
  const found = usePlan();
  const trains = useLayout((s) => s.state?.document.trains);
  const layoutId = useLayout((s) => s.state?.id);
  const [open, setOpen] = useState<string | null>(null);
  const [add, setAdd] = useState("");
  const picked = useBench((s) => s.picked);
  const [wrong, setWrong] = useState<string | null>(null);
  if (!found) return <p className="p-3 text-mute text-sm">Make a plan first, beside the plan of the layout.</p>;
  const { id, plan } = found;
  const rows = Object.entries(plan.trains ?? {});
  const free = Object.entries(trains ?? {}).filter(([t]) => !rows.some(([, p]) => p.train === t));
  const change = async (words: string, path: string, value: unknown) =>
    setWrong(await changePlan(id, words, path, value));
  const chosen = free.some(([t]) => t === add) ? add : (free[0]?.[0] ?? "");
  const take = async (file: File) => {
    setWrong(null);
    try {
      useLayout.getState().settle(await send<Shape["Changed"]>(`/api/layouts/${layoutId}/plans/${id}/runs`, file));
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <div className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="timetable">
      <table className="w-full max-w-[1000px]">
        <Columns names={["Train", "Begins on", "Front at", "Facing", "Runs", "Leaves, s", ""]} />
        <tbody>
          {rows.map(([key, t]) => (
            <TrainRow
              key={key}
              id={id}
              name={trains?.[t.train]?.name ?? t.train}
              rowKey={key}
              train={t}
              open={open === key}
              toggle={() => setOpen(open === key ? null : key)}
              change={change}
            />
          ))}
        </tbody>
      </table>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      <p className="mt-2 flex gap-4">
        <a className="act text-xs" href={`/api/layouts/${layoutId}/plans/${id}/runs.csv`} download>
          CSV
        </a>
        <FilePick label="Runs file" accept=".csv" className="act text-xs" onPick={(chosen) => void take(chosen)}>
          Take in a CSV…
        </FilePick>
      </p>
      {free.length ? (
        <div className="mt-2 flex items-end gap-2">
          <label className="text-[11.5px] text-mute">
            Add a train
            <select className="field mt-0.5 w-52 text-ink" value={chosen} onChange={(e) => setAdd(e.target.value)}>
              {free.map(([t, v]) => (
                <option key={t} value={t}>
                  {v.name}
                </option>
              ))}
            </select>
          </label>
          <button
            type="button"
            className="btn flex items-center gap-1"
            disabled={!picked}
            onClick={() =>
              picked &&
              void change(`Add ${trains?.[chosen]?.name}`, `/trains/${chosen}`, {
                train: chosen,
                track: picked.track,
                at: picked.at,
                towards: "b",
                by: "free",
              })
            }
          >
            <Plus size={14} aria-hidden="true" /> {picked ? `On ${trackName(picked.track)}` : "Click on a track first"}
          </button>
        </div>
      ) : null}
    </div>
  );
}

function TrainRow({
  id,
  rowKey,
  name,
  train,
  open,
  toggle,
  change,
}: {
  id: string;
  rowKey: string;
  name: string;
  train: Planned;
  open: boolean;
  toggle: () => void;
  change: (words: string, path: string, value: unknown) => Promise<void>;
}) {
  const tracks = useLayout((s) => s.state?.document.tracks);
  const base = `/trains/${rowKey}`;
  const by = train.by ?? "free";
  const calls = train.calls ?? [];
  return (
    <>
      <tr className="border-line border-b align-top">
        <td className="py-1 pr-2 font-medium">{name}</td>
        <td className="w-52 py-1 pr-2">
          <TrackChoice
            label={`${name} begins on`}
            value={train.track}
            onChange={(v) => void change(`${name} begins on ${trackName(v)}`, `${base}/track`, v)}
          />
        </td>
        <td className="w-28 py-1 pr-2">
          <LengthOf
            label={`${name}: front at`}
            mm={train.at}
            onTake={(v) => change(`${name} begins elsewhere`, `${base}/at`, v)}
          />
        </td>
        <td className="w-32 py-1 pr-2">
          <Facing
            label={`${name} faces`}
            track={train.track}
            value={train.towards ?? "b"}
            onChange={(v) => void change(`${name} faces the other way`, `${base}/towards`, v)}
          />
        </td>
        <td className="w-52 py-1 pr-2">
          <Choice
            label={`${name} runs`}
            hideLabel
            value={by}
            options={BY}
            onChange={(v) => void change(`${name}: ${v}`, `${base}/by`, v)}
          />
          <span className="text-[11px] text-mute">{BY_WORDS[by]}</span>
        </td>
        <td className="w-20 py-1 pr-2">
          {by === "parked" ? null : (
            <Figure label={`${name} leaves, s`} hideLabel value={train.leaves ?? 0} path={`${base}/leaves`} id={id} />
          )}
        </td>
        <td className="whitespace-nowrap py-1 text-right">
          <button type="button" className="act mr-2 text-xs" aria-expanded={open} onClick={toggle}>
            {by === "calls" ? `${calls.length} call${calls.length === 1 ? "" : "s"}` : "more"}
            <span className="sr-only"> of {name}</span>
          </button>
          <button
            type="button"
            className="btn px-1 py-0.5"
            aria-label={`Take ${name} out of the plan`}
            onClick={() => void change(`Take ${name} out`, base, undefined)}
          >
            <X size={12} aria-hidden="true" />
          </button>
        </td>
      </tr>
      {open ? (
        <tr className="border-line border-b bg-paper">
          <td />
          <td colSpan={6} className="py-1.5">
            <OfTrain id={train.train} />
            {by === "calls" ? (
              <ol className="mt-2 grid gap-1.5">
                {calls.map((c, n) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: calls have no name but their order
                  <li key={n} className="flex items-end gap-2">
                    <span className="figure w-4 pb-1 text-mute">{n + 1}</span>
                    <div className="w-44">
                      <TrackChoice
                        label={`Call ${n + 1} of ${name}`}
                        value={c.track}
                        onChange={(v) => void change(`${name} calls at ${trackName(v)}`, `${base}/calls/${n}/track`, v)}
                      />
                    </div>
                    <div className="w-24">
                      <LengthOf
                        label={`Call ${n + 1}: front at`}
                        mm={c.at}
                        onTake={(v) => change(`${name} stops elsewhere`, `${base}/calls/${n}/at`, v)}
                      />
                    </div>
                    <div className="w-16">
                      <Figure label="Stands, s" value={c.dwell ?? 20} path={`${base}/calls/${n}/dwell`} id={id} />
                    </div>
                    <div className="w-20">
                      <Figure
                        label="Leaves, s"
                        optional
                        value={c.leaves ?? null}
                        path={`${base}/calls/${n}/leaves`}
                        id={id}
                      />
                    </div>
                    <div className="w-20">
                      <Choice
                        label="Then"
                        value={c.then ?? "on"}
                        options={["on", "turn"] as const}
                        onChange={(v) => void change(`${name}: then ${v}`, `${base}/calls/${n}/then`, v)}
                      />
                    </div>
                    <div className="w-32">
                      <label className="block text-[11.5px] text-mute">
                        By way of
                        <select
                          className="field mt-0.5 text-ink"
                          value={c.via?.[0] ?? ""}
                          onChange={(e) =>
                            void change(
                              `${name} by ${trackName(e.target.value)}`,
                              `${base}/calls/${n}/via`,
                              e.target.value ? [e.target.value] : [],
                            )
                          }
                        >
                          <option value="">the shortest way</option>
                          {Object.entries(tracks ?? {}).map(([t, v]) => (
                            <option key={t} value={t}>
                              {v.name}
                            </option>
                          ))}
                        </select>
                      </label>
                    </div>
                    <button
                      type="button"
                      className="btn px-1 py-1"
                      aria-label={`Take call ${n + 1} of ${name} out`}
                      onClick={() =>
                        void change(
                          `${name}: one call less`,
                          `${base}/calls`,
                          calls.filter((_, k) => k !== n),
                        )
                      }
                    >
                      <X size={12} aria-hidden="true" />
                    </button>
                  </li>
                ))}
                <AddCall name={name} base={base} calls={calls} change={change} />
              </ol>
            ) : null}
          </td>
        </tr>
      ) : null}
    </>
  );
}

function AddCall({
  name,
  base,
  calls,
  change,
}: {
  name: string;
  base: string;
  calls: Call[];
  change: (words: string, path: string, value: unknown) => Promise<void>;
}) {
  const picked = useBench((s) => s.picked);
  return (
    <li>
      <button
        type="button"
        className="btn flex items-center gap-1 text-xs"
        disabled={!picked}
        onClick={() =>
          picked &&
          void change(`${name} calls at ${trackName(picked.track)}`, `${base}/calls`, [
            ...calls,
            { track: picked.track, at: picked.at, dwell: 20 },
          ])
        }
      >
        <Plus size={13} aria-hidden="true" />
        {picked ? `Call where you last looked, on ${trackName(picked.track)}` : "Click on a track to add a call there"}
      </button>
    </li>
  );
}
