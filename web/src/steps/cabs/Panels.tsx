import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { PlainTable } from "../../parts/PlainTable";
import { Segmented } from "../../parts/Segmented";
import { Choice, Typed } from "../../parts/Typed";
import { useLayout } from "../../store/layout";
import { useCabs } from "./queries";

const LAMPS = ["turnouts, one of two colours", "turnouts, one a leg", "occupancy", "breakers", "cab in use"] as const;
const SIDES = [
  ["front", "Front"],
  ["back", "Back"],
] as const;

/** The control panels: the front to drill, and the back with every pin, its wire and its strip. */
export function Panels() {
  const { id, revision } = useWhere();
  const { data: cabs } = useCabs();
  const draw = useLayout((s) => s.draw);
  const edit = useLayout((s) => s.edit);
  const [chosen, setChosen] = useState<string | null>(null);
  const [side, setSide] = useState<"front" | "back">("back");
  const panels = cabs?.panels ?? [];
  const stands = useLayout((s) => s.state?.document.panels);
  const panel = panels.find((p) => p.panel === chosen) ?? panels[0];
  const { data, error } = useQuery({
    queryKey: ["control-panel", id, revision, panel?.panel],
    enabled: panel !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/panels/{panel}", {
          params: { path: { layout_id: id, panel: panel?.panel ?? "" }, query: { revision } },
        }),
      ),
  });
  const add = () =>
    void draw({ act: "panel", name: `Panel ${panels.length + 1}`, x: (panels[0]?.x ?? 0) + 900, y: panels[0]?.y ?? 0 });
  if (!panel)
    return (
      <div className="p-3 text-[12px]">
        <p className="max-w-2xl rounded-lg border border-line bg-paper p-2.5">
          No control panel yet. <b>Block it for cabs</b> places one with its switches; or{" "}
          <button type="button" className="act" onClick={add}>
            place an empty one
          </button>
          .
        </p>
      </div>
    );
  const shown = stands?.[panel.panel]?.lamps ?? [];
  const file = (name: string, more = "") =>
    `/api/layouts/${id}/files/panels/${panel.panel}${name}?revision=${revision}${more}`;
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Control panels" data-testid="panels">
      <div className="mb-2 flex flex-wrap items-end gap-2">
        {panels.length > 1 ? (
          <div className="w-44">
            <Choice
              label="Panel"
              value={panel.name}
              options={panels.map((p) => p.name)}
              onChange={(name) => setChosen(panels.find((p) => p.name === name)?.panel ?? null)}
            />
          </div>
        ) : null}
        <div className="w-44">
          <Typed
            label="Its name"
            kind="text"
            shown={panel.name}
            onTake={(v) =>
              edit(`Panel ${String(v)}`, [{ op: "replace", path: `/panels/${panel.panel}/name`, value: v }], true)
            }
          />
        </div>
        <div className="w-28">
          <Typed
            label="Is wide"
            kind="length"
            bare="mm"
            shown={`${(data?.width ?? 0).toFixed(0)} mm`}
            onTake={async (v) => {
              if (typeof v !== "number" || v < 200 || v > 2000) return "Between 200 and 2000 mm.";
              return edit(
                `${panel.name}: ${v} mm wide`,
                [{ op: "replace", path: `/panels/${panel.panel}/width`, value: v }],
                true,
              );
            }}
          />
        </div>
        <div className="w-48">
          <Choice
            label="Turnouts thrown by"
            value={stands?.[panel.panel]?.turnouts_by ?? "toggle switches"}
            options={["toggle switches", "push buttons, one a leg"]}
            onChange={(by) =>
              void edit(`${panel.name}: turnouts by ${by}`, [
                { op: "replace", path: `/panels/${panel.panel}/turnouts_by`, value: by },
              ])
            }
          />
        </div>
        <Segmented label="Side of the panel" value={side} options={SIDES} onChange={setSide} />
        <a className="btn" href={file(".pdf", "&paper=A4")}>
          Template 1:1, A4
        </a>
        <a className="btn" href={file(".pdf", "&paper=Letter")}>
          Letter
        </a>
        <a className="btn" href={file("-back.svg")}>
          Back, SVG
        </a>
        <button type="button" className="act pb-1.5" onClick={add}>
          One more panel
        </button>
      </div>
      {error ? (
        <p role="alert" className="text-oxide text-xs">
          {(error as Error).message}
        </p>
      ) : null}
      {data ? (
        <div className="grid gap-4 xl:grid-cols-[minmax(0,1fr)_minmax(0,430px)]">
          <div className="min-w-0">
            <img
              className="w-full rounded border border-line bg-white"
              alt={`${data.name}, ${side === "front" ? `front, ${data.width} by ${data.height} mm` : "from behind, pins numbered"}`}
              src={`data:image/svg+xml;utf8,${encodeURIComponent(side === "front" ? data.front_svg : data.back_svg)}`}
            />
            <fieldset className="mt-2 flex flex-wrap gap-x-3 gap-y-0.5 text-[11.5px]">
              <legend className="mr-2 font-bold text-[12px]">Its lamps show</legend>
              {LAMPS.map((lamp) => (
                <label key={lamp} className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    checked={shown.includes(lamp)}
                    onChange={(e) =>
                      void edit(`${panel.name}: lamps`, [
                        {
                          op: "replace",
                          path: `/panels/${panel.panel}/lamps`,
                          value: e.target.checked ? [...shown, lamp] : shown.filter((x) => x !== lamp),
                        },
                      ])
                    }
                  />
                  {lamp}
                </label>
              ))}
            </fieldset>
            <h3 className="mt-3 font-bold">On the bench</h3>
            <ol className="list-decimal pl-5 text-[11.5px]">
              {data.jobs.map((j) => (
                <li key={j}>{j}</li>
              ))}
            </ol>
            <p className="mt-1.5 text-[11.5px] text-mute">It takes: {data.parts.join("; ")}.</p>
          </div>
          <div className="min-w-0 text-[11.5px]">
            {data.tables.map((t) => (
              <details key={t.title} open={t.title === "Pin by pin"}>
                <summary className="cursor-pointer font-bold text-[12px]">{t.title}</summary>
                <PlainTable columns={t.columns} rows={t.rows} kinds={t.kinds} />
                <p className="my-1 text-mute">{t.note}</p>
              </details>
            ))}
          </div>
        </div>
      ) : (
        <p className="text-mute text-xs">Drawing it…</p>
      )}
    </section>
  );
}
