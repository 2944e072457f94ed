import { useState } from "react";
import { type Shape, send } from "../../api/client";
import { FilePick } from "../../parts/FilePick";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "./Fold";
import { Trace } from "./Trace";

const DEFAULT_WIDE_MM = 4000;
type Kept = Shape["PictureKept"];

/** The picture one draws over: dropped in, scaled by two places and a known distance, dimmed. */
export function BackdropCard() {
  const state = useLayout((s) => s.state);
  const edit = useLayout((s) => s.edit);
  const { measure, tool, set } = useBench();
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [pdf, setPdf] = useState<{ file: File; page: number; pages: number } | null>(null);
  if (!state) return null;
  const b = state.document.backdrop;

  const drop = async (file: File, page = 1) => {
    setWrong(null);
    setBusy(true);
    try {
      const kept = await send<Kept>(`/api/pictures?page=${page}`, file);
      setPdf(kept.pages > 1 ? { file, page, pages: kept.pages } : null);
      const size = kept.width ? { width: kept.width, height: kept.height ?? kept.width } : await sizeOf(file);
      const scale = kept.mm_per_pixel ?? (b ? (b.mm_per_pixel ?? 10) : DEFAULT_WIDE_MM / size.width);
      const value = {
        picture: kept.picture,
        ...size,
        x: kept.x ?? 0,
        y: kept.y ?? 0,
        mm_per_pixel: scale,
        dim: b?.dim ?? 0.5,
      };
      await edit(`Draw over ${file.name}`, [{ op: "add", path: "/backdrop", value }]);
    } catch (error) {
      setWrong((error as Error).message);
    }
    setBusy(false);
  };

  const scaleBy = async (known: number) => {
    const [p, q] = measure;
    if (!b || !p || !q) return "Click two places first.";
    const drawn = Math.hypot(q.x - p.x, q.y - p.y);
    if (drawn < 1 || known <= 0) return "The two places must lie apart.";
    const factor = known / drawn;
    // The first place stays where it is; the picture grows or shrinks round it.
    const value = {
      ...b,
      mm_per_pixel: (b.mm_per_pixel ?? 10) * factor,
      x: p.x - (p.x - (b.x ?? 0)) * factor,
      y: p.y - (p.y - (b.y ?? 0)) * factor,
    };
    const why = await edit("Scale the picture", [{ op: "replace", path: "/backdrop", value }], true);
    if (why === null) set({ measure: [], tool: "select" });
    return why;
  };

  return (
    <Fold title="Picture to draw over">
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is an extra; the button does the same */}
      <div
        className="rounded-lg border border-line border-dashed p-2"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          const file = event.dataTransfer.files[0];
          if (file) void drop(file);
        }}
      >
        <div className="flex flex-wrap items-center gap-2">
          <FilePick
            label="Picture file"
            accept=".png,.jpg,.jpeg,.webp,.svg,.dxf,.pdf"
            disabled={busy}
            onPick={(file) => void drop(file)}
          >
            {busy ? "Taking it in…" : b ? "Another picture…" : "Choose a picture…"}
          </FilePick>
          {b ? (
            <>
              <button
                type="button"
                className="btn"
                aria-pressed={tool === "scale"}
                onClick={() => set({ tool: "scale", measure: [], note: null })}
              >
                Set its scale
              </button>
              <button
                type="button"
                className="act"
                onClick={() => void edit("Take the picture away", [{ op: "replace", path: "/backdrop", value: null }])}
              >
                Take away
              </button>
            </>
          ) : (
            <span className="text-[11.5px] text-mute">PNG, JPEG, PDF, SVG or DXF; or drop it here.</span>
          )}
        </div>
        {pdf ? (
          <div className="mt-2 w-44">
            <Typed
              label={`Page of ${pdf.pages}`}
              kind="text"
              shown={String(pdf.page)}
              onTake={async (v) => {
                const page = Number(v);
                if (!Number.isInteger(page) || page < 1 || page > pdf.pages)
                  return `This must be a page from 1 to ${pdf.pages}.`;
                await drop(pdf.file, page);
                return null;
              }}
            />
          </div>
        ) : null}
        {b && (tool === "scale" || (measure.length > 0 && tool === "select")) ? (
          <div className="mt-2">
            <Typed
              label={
                measure.length < 2
                  ? `Click ${2 - measure.length} more place${measure.length ? "" : "s"} on the picture`
                  : "Distance between the two places"
              }
              kind="length"
              shown=""
              placeholder="10 ft, 3 m…"
              onTake={(v) => scaleBy(Number(v))}
            />
          </div>
        ) : null}
        {b ? (
          <label className="mt-2 flex items-center gap-2 text-mute text-xs">
            Dim
            <input
              type="range"
              min="0"
              max="0.95"
              step="0.05"
              defaultValue={b.dim ?? 0.5}
              className="flex-1 accent-[var(--copper)]"
              onPointerUp={(event) =>
                void edit("Dim the picture", [
                  { op: "replace", path: "/backdrop/dim", value: Number(event.currentTarget.value) },
                ])
              }
              onKeyUp={(event) =>
                void edit("Dim the picture", [
                  { op: "replace", path: "/backdrop/dim", value: Number(event.currentTarget.value) },
                ])
              }
            />
          </label>
        ) : null}
        {wrong ? (
          <p role="alert" className="mt-1 text-oxide text-xs">
            {wrong}
          </p>
        ) : null}
        <Trace />
      </div>
    </Fold>
  );
}

function sizeOf(file: File): Promise<{ width: number; height: number }> {
  return new Promise((take, refuse) => {
    const url = URL.createObjectURL(file);
    const image = new Image();
    image.onload = () => {
      take({ width: image.naturalWidth || 1000, height: image.naturalHeight || 700 });
      URL.revokeObjectURL(url);
    };
    image.onerror = () => {
      URL.revokeObjectURL(url);
      refuse(new Error(`${file.name} does not open as a picture.`));
    };
    image.src = url;
  });
}
