import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { streamed } from "../../api/stream";
import { bound } from "../../parts/bound";
import { Columns } from "../../parts/Columns";
import { useBench } from "../../store/bench";

const NUMBERS = [
  ["evenings", "Evenings played", 100, 5000],
  ["minutes", "Minutes each", 10, 600],
  ["stays", "Minutes on one circuit", 1, 60],
  ["running", "Runs, % of the time", 0, 100],
  ["seed", "Seed", 0, 1e9],
] as const;
type Field = (typeof NUMBERS)[number][0];
const USUAL: Record<Field, number> = { evenings: 1000, minutes: 180, stays: 5, running: 70, seed: 1 };

/** An evening of the scene played many times: how likely each source and breaker is asked for more than it gives. */
export function Evenings() {
  const { id, revision, scene, ready } = useWhere();
  const show = useBench((s) => s.show);
  const [typed, setTyped] = useState<Record<Field, string>>(
    Object.fromEntries(Object.entries(USUAL).map(([k, v]) => [k, String(v)])) as Record<Field, string>,
  );
  const [habits, setHabits] = useState(USUAL);
  const [done, setDone] = useState<[number, number]>([0, 0]);
  const wrong = (field: Field, low: number, high: number) => {
    const n = Number(typed[field].replace(",", "."));
    return typed[field].trim() === "" ||
      !Number.isFinite(n) ||
      n < low ||
      n > high ||
      (field !== "stays" && n % 1 !== 0)
      ? `${low} to ${high}`
      : null;
  };
  const query = new URLSearchParams({ revision: String(revision) });
  for (const [key, value] of Object.entries(habits)) query.set(key, String(key === "running" ? value / 100 : value));
  if (scene) query.set("scene", scene);
  const { data, error, isFetching } = useQuery({
    queryKey: ["session", id, query.toString()],
    enabled: ready,
    retry: false,
    queryFn: () =>
      streamed<Shape["SessionShape"], { done?: number; total?: number }>(`/api/layouts/${id}/session?${query}`, (s) =>
        setDone([s.done ?? 0, s.total ?? 0]),
      ),
  });
  return (
    <section
      className="min-h-0 overflow-auto bg-card p-3 text-[12px]"
      aria-label="Evenings played"
      data-testid="evenings"
    >
      <form
        className="mb-2 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (NUMBERS.every(([f, , low, high]) => !wrong(f, low, high)))
            setHabits(
              Object.fromEntries(NUMBERS.map(([f]) => [f, Number(typed[f].replace(",", "."))])) as Record<
                Field,
                number
              >,
            );
        }}
      >
        {NUMBERS.map(([field, label, low, high]) => (
          <label key={field} className="flex flex-col text-[11.5px] text-mute">
            {label}
            <input
              className="field figure mt-0.5 w-24 text-ink"
              value={typed[field]}
              aria-invalid={wrong(field, low, high) !== null}
              onChange={(e) => setTyped({ ...typed, [field]: e.target.value })}
            />
            {wrong(field, low, high) ? (
              <span role="alert" className="block text-[11px] text-oxide">
                {wrong(field, low, high)}
              </span>
            ) : null}
          </label>
        ))}
        <button type="submit" className="btn">
          Play
        </button>
        {isFetching ? <progress className="mb-2 h-1.5 w-28" value={done[0]} max={Math.max(done[1], 1)} /> : null}
      </form>
      {error ? (
        <p role="alert" className="text-oxide">
          {(error as Error).message}
        </p>
      ) : null}
      {data ? (
        data.chances.length ? (
          <>
            <table className="w-full max-w-[880px]">
              <Columns
                names={["Source or breaker", "On average", "Busiest 5 %", "Most", "May give", "Asked for too much"]}
              />
              <tbody>
                {data.chances.map((c) => (
                  <tr key={c.device} className="border-line border-b align-baseline">
                    <td className="py-1 pr-2">
                      <button
                        type="button"
                        className="act text-left"
                        onClick={() => show({ kind: "device", id: c.device }, null)}
                      >
                        {c.name}
                      </button>
                    </td>
                    <td className="figure pr-2">{bound(c.mean_text)}</td>
                    <td className="figure pr-2">{bound(c.usual_text)}</td>
                    <td className="figure pr-2">{bound(c.most_text)}</td>
                    <td className="figure pr-2">{c.gives_text ?? "not known"}</td>
                    <td className={c.over ? "font-semibold text-oxide" : ""}>
                      {bound(c.chance_text)}
                      {c.over ? `; ${c.minutes_text}` : ""}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="mt-2 max-w-[880px] text-mute text-xs">{bound(data.words)}</p>
          </>
        ) : (
          <p>No source or breaker yet.</p>
        )
      ) : null}
    </section>
  );
}
