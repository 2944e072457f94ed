import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useWhere } from "../api/queries";
import { Preview } from "../findings/Preview";
import { bound } from "../parts/bound";

/** A bus that ends free, against the same bus closed into a ring: figures beside each other, and the change. */
export function RingOffer({ run }: { run: string }) {
  const { id, revision, scene } = useWhere();
  const [asked, setAsked] = useState(false);
  const [making, setMaking] = useState(false);
  const { data, error } = useQuery({
    queryKey: ["ring", id, revision, scene, run],
    enabled: asked,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/ring", {
          params: { path: { layout_id: id }, query: { run, revision, scene } },
        }),
      ),
  });
  return (
    <div className="mt-2 text-xs" data-testid="ring">
      {!asked ? (
        <button type="button" className="act" onClick={() => setAsked(true)}>
          As a ring…
        </button>
      ) : error ? (
        <p role="alert" className="text-oxide">
          {(error as Error).message}
        </p>
      ) : !data ? (
        <p className="text-mute" role="status">
          Working both out…
        </p>
      ) : (
        <>
          <table className="w-full">
            <thead>
              <tr className="text-left text-[11px] text-mute">
                <th className="font-normal" scope="col">
                  <span className="sr-only">Figure</span>
                </th>
                <th className="pl-2 font-normal" scope="col">
                  as it ends
                </th>
                <th className="pl-2 font-normal" scope="col">
                  as a ring
                </th>
              </tr>
            </thead>
            <tbody>
              {data.rows.map((r) => (
                <tr key={r.what} className="border-line border-t">
                  <th scope="row" className="py-0.5 text-left font-normal">
                    {r.what}
                  </th>
                  <td className="figure whitespace-nowrap pl-2">{bound(r.ended)}</td>
                  <td className="figure whitespace-nowrap pl-2">{bound(r.ring)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1">{bound(data.words)}</p>
          <button type="button" className="act mt-1" onClick={() => setMaking(true)}>
            Close it…
          </button>
          {making ? (
            <Preview title={data.words} decides={data.words} mend={data.change} onClose={() => setMaking(false)} />
          ) : null}
        </>
      )}
    </div>
  );
}
