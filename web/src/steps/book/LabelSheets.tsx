import { Download } from "lucide-react";
import { useId, useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Segmented } from "../../parts/Segmented";
import { pathOf, useFile } from "../../parts/useFile";

/** Labels for both ends of every wire: on sheets, or as a table for a label printer. */
export function LabelSheets({ book }: { book: Shape["BookShape"] }) {
  const { id, revision } = useWhere();
  const { writing, wrong, get } = useFile();
  const [sheet, setSheet] = useState(book.sheets[0]?.key ?? "");
  const [each, setEach] = useState<"wire" | "pair">("wire");
  const [board, setBoard] = useState("");
  const [skip, setSkip] = useState("0");
  const ids = { sheet: useId(), board: useId(), skip: useId() };
  const holds = book.sheets.find((s) => s.key === sheet)?.each ?? 1;
  const used = /^\d{1,3}$/.test(skip.trim()) ? Number(skip) : Number.NaN;
  const bad = !(used >= 0 && used < holds);
  const path = (name: string) =>
    pathOf(`/api/layouts/${id}/files/${name}`, { revision, sheet, each, board, skip: bad ? 0 : used });
  const count = book.pieces * (each === "wire" ? 4 : 2);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4 text-[12.5px]" data-testid="label-sheets">
      <h3 className="font-bold text-sm">Labels for both ends</h3>
      <p className="max-w-[64ch] text-mute text-xs">
        The big word is the wire’s label, the same at both ends; under it which end this is, where the other one is, and
        the colour. They come in the order the boards are built.
      </p>
      <div className="mt-3 grid max-w-[430px] gap-2.5">
        <Segmented
          label="How many labels"
          value={each}
          options={[
            ["wire", "Every wire its own"],
            ["pair", "One for each pair"],
          ]}
          onChange={setEach}
        />
        <div>
          <label htmlFor={ids.board} className="mb-0.5 block text-[11.5px] text-mute">
            Board
          </label>
          <select id={ids.board} className="field" value={board} onChange={(e) => setBoard(e.target.value)}>
            <option value="">All boards</option>
            {book.boards.map((b) => (
              <option key={b.key} value={b.key}>
                {bound(b.title)}
              </option>
            ))}
          </select>
        </div>
        <div>
          <label htmlFor={ids.sheet} className="mb-0.5 block text-[11.5px] text-mute">
            Sheet
          </label>
          <select id={ids.sheet} className="field" value={sheet} onChange={(e) => setSheet(e.target.value)}>
            {book.sheets.map((s) => (
              <option key={s.key} value={s.key}>
                {s.name}
              </option>
            ))}
          </select>
        </div>
        <div>
          <label htmlFor={ids.skip} className="mb-0.5 block text-[11.5px] text-mute">
            Labels used already on the first sheet
          </label>
          <input
            id={ids.skip}
            className="field figure w-24"
            inputMode="numeric"
            value={skip}
            aria-invalid={bad}
            onChange={(e) => setSkip(e.target.value)}
          />
          {bad ? (
            <p role="alert" className="mt-0.5 text-oxide text-xs">
              A whole number from 0 to {holds - 1}: this sheet has {holds} labels.
            </p>
          ) : null}
        </div>
        <p className="text-mute text-xs">
          {board ? "" : `${count} labels on ${Math.ceil((count + (bad ? 0 : used)) / holds)} sheets. `}
          Print at full size, not fitted to the page, and try on plain paper first.
        </p>
        <div className="flex gap-2">
          <button
            type="button"
            className="btn-main flex items-center gap-1.5"
            disabled={writing !== null || bad}
            onClick={() => void get("PDF", path("labels.pdf"))}
          >
            <Download size={14} aria-hidden="true" /> {writing === "PDF" ? "Writing…" : "Sheets (PDF)"}
          </button>
          <button
            type="button"
            className="btn"
            disabled={writing !== null}
            onClick={() => void get("CSV", path("labels.csv"))}
          >
            For a label printer (CSV)
          </button>
        </div>
        {wrong ? (
          <p role="alert" className="text-oxide text-xs">
            {wrong}
          </p>
        ) : null}
      </div>
    </div>
  );
}
