import { useState } from "react";
import { useDetection } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { useOff } from "./BlockIt";

/** Boards of channels with their addresses; renumbering is previewed. */
export function Boards() {
  const { data } = useDetection();
  const show = useBench((s) => s.show);
  const [first, setFirst] = useState("1");
  const renumber = useOff();
  const number = Number(first);
  const sound = Number.isInteger(number) && number >= 1 && number <= 9999;
  if (!data?.boards.length)
    return <p className="p-4 text-mute">No detector board yet: Block it places them near their sections.</p>;
  return (
    <div className="p-3 text-[12px]" data-testid="detector-boards">
      <form
        className="mb-2 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (sound) void renumber.ask("renumbering", `&first=${number}`);
        }}
      >
        <label className="text-[11.5px] text-mute">
          Addresses from
          <input
            className="field mt-0.5 w-24 text-ink"
            value={first}
            aria-invalid={!sound}
            onChange={(e) => setFirst(e.target.value)}
          />
        </label>
        <button type="submit" className="btn" disabled={!sound}>
          Renumber without a hole…
        </button>
        {sound ? null : (
          <span role="alert" className="text-oxide text-xs">
            A whole number from 1 to 9999.
          </span>
        )}
      </form>
      <ReportLine stops={data.line} />
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(210px,1fr))] gap-2">
        {data.boards.map((b) => (
          <li key={b.id} className="rounded-lg border border-line bg-paper px-2.5 py-1.5">
            <div className="flex items-baseline justify-between">
              <button
                type="button"
                className="act font-bold"
                onClick={() => show({ kind: "detector", id: b.id }, null, [b.id])}
              >
                {b.name}
              </button>
              <span className="figure">
                {b.first}–{b.last}
              </span>
            </div>
            <div className="text-mute text-xs">
              {b.kind}, {b.used} of {b.channels} channels, from {bound(b.threshold_text)}, wire home{" "}
              {b.home_text || "none"}
            </div>
            <div className="mt-1 flex gap-[2px]" aria-hidden="true">
              {Array.from({ length: b.channels }, (_, k) => k).map((k) => (
                <i key={k} className={`block h-1.5 flex-1 rounded-sm ${k < b.used ? "bg-copper" : "bg-board"}`} />
              ))}
            </div>
          </li>
        ))}
      </ul>
      {renumber.sheet}
    </div>
  );
}

/** The line that joins the boards, each to the next: planned when somebody says how many wires it has. */
function ReportLine({ stops }: { stops: string[] }) {
  const wires = useLayout((s) => s.state?.document.brief?.detecting?.line_wires ?? null);
  const edit = useLayout((s) => s.edit);
  return (
    <div className="mb-2 flex flex-wrap items-end gap-2">
      <label className="text-[11.5px] text-mute">
        Report line
        <select
          className="field mt-0.5 w-36 text-ink"
          value={wires ?? ""}
          onChange={(e) => {
            const value = e.target.value ? Number(e.target.value) : null;
            void edit(value ? `Report line of ${value} wires` : "No report line", [
              { op: "add", path: "/brief/detecting/line_wires", value },
            ]);
          }}
        >
          <option value="">not planned</option>
          {[2, 3, 4, 6, 8].map((n) => (
            <option key={n} value={n}>
              {n} wires
            </option>
          ))}
        </select>
      </label>
      <span className="min-w-0 flex-1 pb-1.5 text-mute" data-testid="report-line">
        {stops.length
          ? stops.join(" → ")
          : "One cable from the station to every board, each to the next: cut, counted and plugged with the rest."}
      </span>
    </div>
  );
}
