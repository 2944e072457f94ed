import { useQuery } from "@tanstack/react-query";
import { queries } from "../../api/cache";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import type { Plan } from "../../store/evening";
import { run } from "./run";
import { say } from "./usePlan";

/** Rehearsals that were kept: what each came to, whether the layout has changed since, and run again. */
export function Kept() {
  const { id, ready } = useWhere();
  const { data } = useQuery({
    queryKey: ["rehearsals", id],
    enabled: ready,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/rehearsals", { params: { path: { layout_id: id } } })),
  });
  if (!data?.length)
    return (
      <p className="p-3 text-mute text-sm">
        Nothing is kept yet. Under what an evening came to, press Keep this rehearsal: it stays here with the plan as it
        ran and the change of the layout it ran on.
      </p>
    );
  return (
    <ul className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="kept">
      {data.map((r) => {
        const bad = r.sentences.filter((s) => s.grade === "bad");
        return (
          <li key={r.id} className="border-line border-b py-2">
            <div className="flex flex-wrap items-baseline gap-2">
              <b>{r.name}</b>
              <span className="figure text-mute text-xs">
                {r.made.slice(0, 16).replace("T", " ")} · change {r.revision} · seed {r.seed}
                {r.who ? ` · ${r.who}` : ""}
              </span>
              {r.stale ? <span className="text-link text-xs">the layout has changed since</span> : null}
              <span className="flex-1" />
              <button
                type="button"
                className="btn py-0.5 text-xs"
                onClick={() => void run(r.plan_id, r.plan as unknown as Plan, 0, true)}
              >
                Run it again
              </button>
              <button
                type="button"
                className="act text-xs"
                onClick={async () => {
                  try {
                    const left = await answer(
                      api.DELETE("/api/layouts/{layout_id}/rehearsals/{record_id}", {
                        params: { path: { layout_id: id, record_id: r.id } },
                      }),
                    );
                    queries.setQueryData(["rehearsals", id], left);
                  } catch (error) {
                    say((error as Error).message);
                  }
                }}
              >
                Throw away
              </button>
            </div>
            <ul className="mt-1 grid gap-0.5 text-xs">
              {(bad.length ? bad : r.sentences.slice(0, 3)).map((s) => (
                <li key={s.words} className={s.grade === "bad" ? "text-oxide" : ""}>
                  {s.words}
                </li>
              ))}
            </ul>
          </li>
        );
      })}
    </ul>
  );
}
