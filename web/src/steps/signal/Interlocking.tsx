import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { bound } from "../../parts/bound";

/** Every junction's routes, what they need and which exclude each other, each table proved by search. */
export function Interlocking() {
  const { id, revision, scene } = useWhere();
  const { data, error } = useQuery({
    queryKey: ["interlocking", id, revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/interlocking", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
  if (error) return <p className="p-4 text-oxide">{(error as Error).message}</p>;
  if (!data) return <p className="p-4 text-mute">Trying every state of every junction…</p>;
  if (!data.length) return <p className="p-4 text-mute">No signalled way passes a turnout or a crossing yet.</p>;
  return (
    <div className="grid gap-4 p-3" data-testid="interlocking">
      {data.map((j) => (
        <section key={j.title} aria-label={j.title}>
          <h3 className="font-bold text-[12.5px]">{bound(j.title)}</h3>
          <table className="mt-1 w-full text-[11.8px]">
            <thead className="text-left text-[11px] text-mute">
              <tr>
                {j.columns.map((c) => (
                  <th key={c} className="border-line border-b px-1.5 py-0.5 font-medium">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {j.rows.map((row) => (
                <tr key={row[0]} className="border-line border-b align-top">
                  {row.map((cell, k) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: cells have no name but their column
                    <td key={k} className={`px-1.5 py-0.5 ${k === 0 || k === 5 ? "figure" : ""}`}>
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <p className={`mt-1 text-[11.5px] ${j.proof.startsWith("Tried") ? "text-verd" : "font-semibold text-oxide"}`}>
            {j.proof}
          </p>
        </section>
      ))}
    </div>
  );
}
