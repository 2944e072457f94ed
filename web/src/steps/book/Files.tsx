import { Download, Printer } from "lucide-react";
import { useState } from "react";
import { useWhere } from "../../api/queries";
import { Segmented } from "../../parts/Segmented";
import { pathOf, useFile } from "../../parts/useFile";

type Page = "A4" | "Letter";

/** The book as files: whole, or the chapters ticked. */
export function Files({ chosen, clear }: { chosen: string[]; clear: () => void }) {
  const { id, revision, scene } = useWhere();
  const [page, setPage] = useState<Page>(navigator.language === "en-US" ? "Letter" : "A4");
  const { writing, wrong, get } = useFile();
  const path = (name: string, more: Record<string, string> = {}) =>
    pathOf(`/api/layouts/${id}/files/${name}`, { revision, scene, chapters: chosen.join(","), ...more });
  const print = () => {
    const frame = document.createElement("iframe");
    frame.style.cssText = "position:fixed;width:0;height:0;border:0";
    frame.src = path("book.html");
    frame.onload = () => {
      frame.contentWindow?.addEventListener("afterprint", () => frame.remove());
      frame.contentWindow?.print();
    };
    document.body.append(frame);
  };
  return (
    <div className="border-line border-t p-3 text-[12.5px]">
      <p className="mb-1.5 flex items-center text-xs">
        <span className="flex-1 text-mute">
          {chosen.length ? `${chosen.length} chapter${chosen.length > 1 ? "s" : ""} ticked` : "The whole book"}
        </span>
        {chosen.length ? (
          <button type="button" className="act" onClick={clear}>
            Take all
          </button>
        ) : null}
      </p>
      <div className="mb-2 flex items-center gap-2">
        <Segmented
          label="Paper"
          value={page}
          options={[
            ["A4", "A4"],
            ["Letter", "Letter"],
          ]}
          onChange={setPage}
        />
        <button
          type="button"
          className="btn-main flex flex-1 items-center justify-center gap-1.5"
          disabled={writing !== null}
          onClick={() => void get("PDF", path("book.pdf", { page }))}
        >
          <Download size={14} aria-hidden="true" /> {writing === "PDF" ? "Writing…" : "PDF"}
        </button>
      </div>
      <div className="grid grid-cols-3 gap-1.5">
        <button
          type="button"
          className="btn px-1"
          disabled={writing !== null}
          onClick={() => void get("Workbook", path("book.xlsx"))}
        >
          {writing === "Workbook" ? "Writing…" : "Workbook"}
        </button>
        <button
          type="button"
          className="btn px-1"
          disabled={writing !== null}
          onClick={() => void get("CSV", path("book.csv"))}
        >
          CSV
        </button>
        <button type="button" className="btn flex items-center justify-center gap-1 px-1" onClick={print}>
          <Printer size={13} aria-hidden="true" /> Print
        </button>
      </div>
      {wrong ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}
