import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useAnswers, useWhere } from "../../api/queries";
import { pathOf } from "../../plan/geometry";
import { useBench } from "../../store/bench";

/** The smallest test track: what to build on a bench and try first, because it stands for all others of its kind. */
export function TryFirst() {
  const { id, revision, ready } = useWhere();
  const { data: answers } = useAnswers();
  const { data } = useQuery({
    queryKey: ["test-track", id, revision],
    enabled: ready,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/test-track", { params: { path: { layout_id: id } } })),
  });
  if (!data) return null;
  if (!data.length) return <p className="p-3 text-mute text-sm">No junction, detector or reverser to try yet.</p>;
  return (
    <div className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="try-first">
      <p className="max-w-[900px] text-mute text-xs">
        Of every kind there is the hardest one: build these {data.length} on a bench and prove them, and all others of
        their kind are known.
      </p>
      <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-3">
        {data.map((t) => (
          <li key={t.what} className="grid grid-cols-[84px_minmax(0,1fr)] gap-2 rounded-md border border-line p-2">
            <Sketch tracks={t.tracks} x={t.x} y={t.y} drawn={answers?.tracks ?? {}} />
            <div>
              <button
                type="button"
                className="text-left font-semibold hover:underline"
                onClick={() => useBench.getState().show(null, { track: t.tracks[0] ?? "", at: 0 }, t.tracks)}
              >
                {t.what}
              </button>
              <p className="text-xs">
                Stands for {t.stands_for}. {t.why}
              </p>
              <p className="mt-1 text-mute text-xs">Build {t.build.join(", ")}.</p>
              <ul className="mt-1 list-disc pl-4 text-xs">
                {t.prove.map((p) => (
                  <li key={p}>{p}</li>
                ))}
              </ul>
            </div>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The track round one place, as it lies. */
function Sketch({
  tracks,
  x,
  y,
  drawn,
}: {
  tracks: string[];
  x: number;
  y: number;
  drawn: Record<string, { points: number[]; distance: number[]; length: number }>;
}) {
  const reach = 700;
  return (
    <svg
      viewBox={`${x - reach} ${y - reach} ${2 * reach} ${2 * reach}`}
      className="h-[84px] w-[84px] rounded border border-line bg-paper"
      aria-hidden="true"
    >
      {tracks.map((t) =>
        drawn[t] ? (
          <path key={t} d={pathOf(drawn[t] as never)} fill="none" stroke="var(--rail)" strokeWidth="34" />
        ) : null,
      )}
      <circle cx={x} cy={y} r="70" fill="none" stroke="var(--copper)" strokeWidth="28" />
    </svg>
  );
}
