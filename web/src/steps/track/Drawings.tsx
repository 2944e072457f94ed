import { useState } from "react";
import { type Shape, send } from "../../api/client";
import { FilePick } from "../../parts/FilePick";
import { Sheet } from "../../parts/Sheet";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "./Fold";

type Looked = Shape["Looked"];
type Taken = Shape["Taken"];
type Opened = { file: File; kind: "dxf" | "svg" | "csv"; looked: Looked };
const GIVEN = [
  ["plan.dxf", "Plan, DXF"],
  ["plan.svg", "Plan, SVG"],
  ["tracks.csv", "Tracks, CSV"],
  ["track-graph.graphml", "Track graph, GraphML"],
] as const;

/** Drawings in and out: lines of a DXF, SVG or CSV file become joined track; the plan goes out on named layers. */
export function Drawings() {
  const state = useLayout((s) => s.state);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  if (!state) return null;
  const units = state.document.brief?.units ?? "imperial";
  const look = async (file: File) => {
    setWrong(null);
    const kind = file.name.split(".").pop()?.toLowerCase();
    if (kind !== "dxf" && kind !== "svg" && kind !== "csv") return setWrong("Lines come from DXF, SVG or CSV files.");
    setBusy(true);
    try {
      const looked = await send<Looked>(`/api/take-in/look?kind=${kind}&units=${units}`, file);
      setOpened({ file, kind, looked });
    } catch (error) {
      setWrong((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <Fold title="Drawings in and out" open={false}>
      <FilePick label="Drawing file" accept=".dxf,.svg,.csv" disabled={busy} onPick={(file) => void look(file)}>
        {busy ? "Looking into it…" : "Take track from a drawing…"}
      </FilePick>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
      <div className="mt-2 flex flex-wrap gap-x-3 gap-y-1 text-xs">
        {GIVEN.map(([name, words]) => (
          <a key={name} className="act" href={`/api/layouts/${state.id}/plan-files/${name}`} download>
            {words}
          </a>
        ))}
        <a className="act" href={`/api/layouts/${state.id}/files/layout.json`} download>
          Layout file
        </a>
      </div>
      {opened ? <TakeLines opened={opened} onClose={() => setOpened(null)} /> : null}
    </Fold>
  );
}

function TakeLines({ opened, onClose }: { opened: Opened; onClose: () => void }) {
  const { looked, kind, file } = opened;
  const settle = useLayout((s) => s.settle);
  const state = useLayout((s) => s.state);
  const { like, scene } = useBench();
  const [layers, setLayers] = useState<string[]>(looked.layers.map((l) => l.name));
  const [unit, setUnit] = useState(String(+looked.mm_per_unit.toFixed(5)));
  const [tolerance, setTolerance] = useState("5");
  const [report, setReport] = useState<Taken | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const take = async () => {
    setBusy(true);
    setWrong(null);
    const query = new URLSearchParams({ kind, tolerance, mm_per_unit: unit, use: like.use, code: String(like.code) });
    for (const l of layers) query.append("layers", l);
    if (scene) query.set("scene", scene);
    try {
      const taken = await send<Taken>(`/api/layouts/${state?.id}/take-in?${query}`, file);
      settle(taken.changed);
      setReport(taken);
    } catch (error) {
      setWrong((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <Sheet title={`Track from ${file.name}`} lead={`${looked.lines} lines, ${looked.size_text}`} onClose={onClose}>
      {report ? (
        <div className="mt-3 text-[12.5px]" data-testid="taken">
          <p className="font-semibold">
            Taken: {report.tracks} tracks, {report.joints} joints, {report.turnouts} turnouts, {report.crossings}{" "}
            crossings.
          </p>
          <p className="mt-1">
            {report.loose_ends} ends are open. Hands of turnouts come from how the lines leave: look them over.
          </p>
          <LeftOut left={report.left_out} />
          <div className="mt-4 flex justify-end">
            <button type="button" className="btn-main" onClick={onClose}>
              Done
            </button>
          </div>
        </div>
      ) : (
        <div className="mt-3 grid gap-3 text-[12.5px]">
          {looked.layers.length ? (
            <fieldset className="max-h-48 overflow-y-auto rounded-lg border border-line p-2">
              <legend className="px-1 text-mute text-xs">Layers to take</legend>
              {looked.layers.map((l) => (
                <label key={l.name} className="flex items-center gap-2 py-0.5">
                  <input
                    type="checkbox"
                    className="size-4 accent-[var(--copper)]"
                    checked={layers.includes(l.name)}
                    onChange={(e) =>
                      setLayers(e.target.checked ? [...layers, l.name] : layers.filter((n) => n !== l.name))
                    }
                  />
                  {l.name} <span className="text-mute">{l.lines}</span>
                </label>
              ))}
            </fieldset>
          ) : null}
          <div className="grid grid-cols-2 gap-3">
            <label className="text-mute text-xs">
              One drawing unit is, mm
              <input className="field figure mt-0.5" value={unit} onChange={(e) => setUnit(e.target.value)} />
              {looked.unit_known ? null : (
                <span className="text-[11px]">The file does not say; check the size above.</span>
              )}
            </label>
            <label className="text-mute text-xs">
              Ends meet within, mm
              <input className="field figure mt-0.5" value={tolerance} onChange={(e) => setTolerance(e.target.value)} />
            </label>
          </div>
          <LeftOut left={looked.left_out} />
          {wrong ? (
            <p role="alert" className="text-oxide text-xs">
              {wrong}
            </p>
          ) : null}
          <div className="flex justify-end gap-2">
            <button type="button" className="btn" onClick={onClose}>
              Leave it
            </button>
            <button
              type="button"
              className="btn-main"
              disabled={busy || (looked.layers.length > 0 && !layers.length)}
              onClick={() => void take()}
            >
              {busy ? "Laying the track…" : "Take it in"}
            </button>
          </div>
        </div>
      )}
    </Sheet>
  );
}

function LeftOut({ left }: { left: Record<string, number> }) {
  const rows = Object.entries(left);
  if (!rows.length) return null;
  return (
    <p className="mt-1 text-mute text-xs">Not taken: {rows.map(([why, count]) => `${count} × ${why}`).join("; ")}.</p>
  );
}
