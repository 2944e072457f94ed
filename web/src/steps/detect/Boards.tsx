import { useState } from "react";
import { useDetection } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useOff } from "./BlockIt";
import { HandLine, Numbering, ReportLine } from "./Lines";

/** Boards of channels with their addresses; renumbering is previewed. */
export function Boards() {
  const { data } = useDetection();
  const show = useBench((s) => s.show);
  const [first, setFirst] = useState("1");
  const renumber = useOff();
  const number = Number(first);
  const sound = Number.isInteger(number) && number >= 1 && number <= 9999;
  if (!data) return null;
  if (!data.boards.length)
    return (
      <div className="p-3 text-[12px]" data-testid="detector-boards">
        <p className="mb-2 text-mute">No detector board yet: Block it places them near their sections.</p>
        <HandLine stops={data.hand_line} />
      </div>
    );
  return (
    <div className="p-3 text-[12px]" data-testid="detector-boards">
      <div className="mb-2 flex flex-wrap items-end gap-x-6 gap-y-2">
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (sound) void renumber.ask("renumbering", `&first=${number}`);
          }}
        >
          <label className="flex flex-col text-[11.5px] text-mute">
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
        <Numbering />
      </div>
      <div className="mb-3 grid grid-cols-2 gap-5">
        <ReportLine stops={data.line} />
        <HandLine stops={data.hand_line} />
      </div>
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
                {b.module_text ? `${b.module_text}, ` : ""}
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
