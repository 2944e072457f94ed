import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Sheet } from "../../parts/Sheet";

type Wish = { trains: string; operators: string; plain: string; fitted: string; budget: string };
const FIELDS: readonly (readonly [keyof Wish, string])[] = [
  ["trains", "Trains at once"],
  ["operators", "Operators"],
  ["plain", "Engines without decoder"],
  ["fitted", "with decoder"],
  ["budget", "Budget, if there is one"],
];
const whole = (text: string, least: number) => {
  const value = Number(text);
  return Number.isInteger(value) && value >= least && value <= 500 ? value : null;
};

/** For the club that has not chosen: every control weighed on this very plan. */
export function Choosing({ onClose }: { onClose: () => void }) {
  const { id, revision } = useWhere();
  const [wish, setWish] = useState<Wish>({ trains: "2", operators: "2", plain: "6", fitted: "0", budget: "" });
  const [sound, setSound] = useState(false);
  const [automation, setAutomation] = useState(false);
  const read = {
    trains: whole(wish.trains, 1),
    operators: whole(wish.operators, 1),
    plain: whole(wish.plain, 0),
    fitted: whole(wish.fitted, 0),
  };
  const money = Number(wish.budget.replace(",", "."));
  const budget = wish.budget.trim() === "" ? undefined : money >= 0 ? money : null;
  const wrong = Object.values(read).includes(null) || budget === null;
  const { data, error } = useQuery({
    queryKey: ["choosing", id, revision, read, budget, sound, automation],
    enabled: !wrong,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/choosing", {
          params: {
            path: { layout_id: id },
            query: {
              revision,
              trains: read.trains ?? 2,
              operators: read.operators ?? 2,
              plain: read.plain ?? 0,
              fitted: read.fitted ?? 0,
              sound,
              automation,
              budget: budget ?? undefined,
            },
          },
        }),
      ),
  });
  return (
    <Sheet
      title="Which control?"
      lead="Reckoned from the track of this plan, for what the club wants."
      wide
      onClose={onClose}
    >
      <div className="mt-3 flex flex-wrap items-end gap-2.5 text-[12px]" data-testid="choosing">
        {FIELDS.map(([key, label]) => (
          <label key={key} className="flex w-32 flex-col text-[11.5px] text-mute">
            {label}
            <input
              className="field figure mt-0.5 text-ink"
              inputMode="numeric"
              value={wish[key]}
              aria-invalid={key === "budget" ? budget === null : read[key] === null}
              onChange={(e) => setWish({ ...wish, [key]: e.target.value })}
            />
          </label>
        ))}
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={sound} onChange={(e) => setSound(e.target.checked)} /> sound
        </label>
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={automation} onChange={(e) => setAutomation(e.target.checked)} /> shuttles,
          stops, signals
        </label>
      </div>
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          Whole numbers up to 500, at least one train and one operator; a budget of nothing or more.
        </p>
      ) : null}
      {error ? (
        <p role="alert" className="mt-2 text-oxide text-xs">
          {(error as Error).message}
        </p>
      ) : null}
      {data ? (
        <>
          <p className="mt-3 font-semibold text-[13px]">{data.advice}</p>
          <div className="mt-2 overflow-x-auto">
            <table className="w-full min-w-[640px] text-[11.5px]">
              <thead className="text-left text-[11px] text-mute">
                <tr>
                  {["Control", "Wire", "Blocks", "Switches", "Costs", "Changing later", "For it", "Against it"].map(
                    (h) => (
                      <th key={h} className="border-line border-b pr-2 font-medium">
                        {h}
                      </th>
                    ),
                  )}
                </tr>
              </thead>
              <tbody>
                {data.options.map((o) => (
                  <tr key={o.kind} className="border-line border-b align-top">
                    <th className="py-1 pr-2 text-left font-semibold">
                      {o.kind}
                      {o.fits ? null : <span className="block font-normal text-oxide">not all that is asked</span>}
                    </th>
                    <td className="figure pr-2">{bound(o.wire_text)}</td>
                    <td className="figure pr-2">{o.blocks || "—"}</td>
                    <td className="figure pr-2">{o.switches || "—"}</td>
                    <td className="figure pr-2">{o.cost_text}</td>
                    <td className="pr-2">{bound(o.later_text)}</td>
                    <td className="pr-2">{o.good.join(" ")}</td>
                    <td className="pr-2">{o.bad.join(" ")}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <p className="mt-2 text-[11px] text-mute">{data.note}</p>
        </>
      ) : !error && !wrong ? (
        <p className="mt-3 text-mute text-xs">Weighing them…</p>
      ) : null}
    </Sheet>
  );
}
