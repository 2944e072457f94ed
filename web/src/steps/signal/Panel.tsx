import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { PlainTable } from "../../parts/PlainTable";
import { Typed } from "../../parts/Typed";

/** The railroad as a panel for the fascia: drawn from the plan, with the template to drill it by. */
export function Panel() {
  const { id, revision } = useWhere();
  const [width, setWidth] = useState(600);
  const { data, error } = useQuery({
    queryKey: ["panel", id, revision, width],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/panel", { params: { path: { layout_id: id }, query: { width, revision } } }),
      ),
  });
  const file = (name: string, more = "") =>
    `/api/layouts/${id}/files/${name}?width=${width}&revision=${revision}${more}`;
  return (
    <div className="grid gap-3 p-3 md:grid-cols-[minmax(0,1fr)_330px]" data-testid="panel">
      <div className="min-w-0">
        <div className="mb-2 flex flex-wrap items-end gap-2">
          <div className="w-28">
            <Typed
              label="Panel is wide"
              kind="length"
              bare="mm"
              shown={`${width.toFixed(0)} mm`}
              onTake={async (v) => {
                if (typeof v !== "number" || v < 200 || v > 2000) return "Between 200 and 2000 mm.";
                setWidth(v);
                return null;
              }}
            />
          </div>
          <span className="pb-1.5 text-mute text-xs">{data ? `${data.height.toFixed(0)} mm high` : ""}</span>
          <a className="btn" href={file("panel.svg")}>
            SVG
          </a>
          <a className="btn" href={file("panel.svg", "&template=true")}>
            Template, SVG
          </a>
          <a className="btn" href={file("panel.pdf", "&paper=A4")}>
            Template 1:1, A4
          </a>
          <a className="btn" href={file("panel.pdf", "&paper=Letter")}>
            Letter
          </a>
          <a className="btn" href={file("panel.pdf", "&paper=one%20sheet")}>
            one sheet
          </a>
        </div>
        {error ? (
          <p role="alert" className="text-oxide text-xs">
            {(error as Error).message}
          </p>
        ) : null}
        {data ? (
          <img
            className="w-full rounded border border-line bg-white"
            alt={`Panel of the railroad, ${data.width} by ${data.height} mm`}
            src={`data:image/svg+xml;utf8,${encodeURIComponent(data.svg)}`}
          />
        ) : null}
      </div>
      {data ? (
        <div className="min-w-0 text-[11.5px]">
          <p className="mb-1 text-mute">{data.note} Eye protection when drilling.</p>
          <PlainTable columns={data.columns} rows={data.rows} />
        </div>
      ) : null}
    </div>
  );
}
