import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answer, api, type Operation, type Shape } from "../api/client";
import { useWhere } from "../api/queries";
import { Sheet } from "../parts/Sheet";
import { useLayout } from "../store/layout";
import { decide } from "../store/notes";
import { useInked } from "./useInked";

type Props = {
  title: string;
  mend: Shape["MendShape"];
  /** The reasons of a proposal that was chosen: kept as a decision, unless they are struck out. */
  decides?: string;
  onClose: () => void;
  onMade?: () => void;
};

/** A mend before it is made: what it does to the volts, the coin test and the list. */
export function Preview({ title, mend, decides, onClose, onMade }: Props) {
  const { id, revision, scene } = useWhere();
  const edit = useLayout((s) => s.edit);
  const [why, setWhy] = useState(decides ?? "");
  const whyId = useId();
  useInked(mend.patch as Operation[]);
  const { data, error } = useQuery({
    queryKey: ["preview", id, revision, scene, mend.patch],
    retry: false,
    queryFn: () =>
      answer(
        api.POST("/api/layouts/{layout_id}/preview", {
          params: { path: { layout_id: id }, query: { scene } },
          body: { patch: mend.patch },
        }),
      ),
  });
  return (
    <Sheet title={mend.label} lead={title} docked onClose={onClose}>
      {error ? <p className="mt-3 text-oxide">{(error as Error).message}</p> : null}
      {!data && !error ? <p className="mt-3 text-mute">Working out what it would do…</p> : null}
      {data ? (
        <div className="mt-3 text-[12.5px]">
          <table className="w-full">
            <thead className="text-left text-[11px] text-mute">
              <tr>
                <th className="font-medium"> </th>
                <th className="font-medium">now</th>
                <th className="font-medium">then</th>
              </tr>
            </thead>
            <tbody>
              <tr className="border-line border-t">
                <th className="py-1 pr-3 text-left font-semibold">Lowest volts</th>
                <td className="figure pr-2 align-top">{data.lowest_before}</td>
                <td className="figure align-top font-semibold">{data.lowest_after}</td>
              </tr>
              <tr className="border-line border-t">
                <th className="py-1 pr-3 text-left font-semibold">Weakest short</th>
                <td className="figure pr-2 align-top">{data.coin_before}</td>
                <td className="figure align-top font-semibold">{data.coin_after}</td>
              </tr>
            </tbody>
          </table>
          {data.gone.length ? <List title="Settled by it" rows={data.gone} tone="text-verd" /> : null}
          {data.new.length ? <List title="New with it" rows={data.new} tone="text-oxide" /> : null}
          {!data.gone.length && !data.new.length ? (
            <p className="mt-2 text-mute">The list of findings stays as it is; the figures move as above.</p>
          ) : null}
        </div>
      ) : null}
      <label htmlFor={whyId} className="mt-3 block text-[11.5px] text-mute">
        Why, kept as a decision in the notebook
      </label>
      <textarea
        id={whyId}
        className="field mt-0.5 w-full"
        rows={why.length > 90 ? 3 : 1}
        maxLength={1000}
        value={why}
        placeholder="left open: nothing is kept"
        onChange={(e) => setWhy(e.target.value)}
      />
      <div className="mt-3 flex justify-end gap-2">
        <button type="button" className="btn" onClick={onClose}>
          Leave it
        </button>
        <button
          type="button"
          className="btn-main"
          disabled={!data}
          onClick={() => {
            void edit(mend.label, mend.patch as Operation[]).then((refused) => {
              if (refused === null && why.trim()) void decide(mend.label, why.trim());
            });
            onMade?.();
            onClose();
          }}
        >
          Make this change
        </button>
      </div>
    </Sheet>
  );
}

function List({ title, rows, tone }: { title: string; rows: string[]; tone: string }) {
  return (
    <div className="mt-2">
      <h3 className={`font-semibold text-xs ${tone}`}>{title}</h3>
      <ul className="list-disc pl-4 text-xs">
        {rows.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
    </div>
  );
}
