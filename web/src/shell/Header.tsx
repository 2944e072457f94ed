import { Archive, ChevronsUpDown, Moon, Redo2, Search, Sun, Undo2 } from "lucide-react";
import { CopyLink } from "../parts/CopyLink";
import { Segmented } from "../parts/Segmented";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { linkHere } from "./address";
import { People, WhoAsked } from "./People";

function Mark() {
  const ring = [0, 60, 120, 180, 240, 300].map((d) => (d * Math.PI) / 180);
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true">
      {ring.map((a) => (
        <circle key={a} cx={12 + 7 * Math.cos(a)} cy={12 + 7 * Math.sin(a)} r="3.3" fill="#B5622B" />
      ))}
      <circle cx="12" cy="12" r="3.3" fill="#D98B55" />
    </svg>
  );
}

function Saved() {
  const { state, saving, savedAt } = useLayout();
  if (!state) return null;
  const time = savedAt?.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  return (
    <span className="truncate text-xs text-mute" aria-live="polite" data-testid="saved">
      {saving ? "Saving…" : `Saved ${time} · change ${state.revision}`}
    </span>
  );
}

export function Header() {
  const { state, undo, redo, edit } = useLayout();
  const { theme, set } = useBench();
  const units = state?.document.brief?.units ?? "imperial";
  return (
    <header className="no-print col-span-2 flex min-w-0 items-center gap-3 border-line border-b px-3.5">
      <Mark />
      <h1 className="whitespace-nowrap font-bold text-[15px] tracking-tight">Jolly Copper</h1>
      {state ? (
        <>
          <span aria-hidden="true" className="text-line">
            │
          </span>
          <button
            type="button"
            className="flex min-w-0 items-center gap-1 truncate rounded-md px-1 font-semibold text-sm hover:bg-board"
            aria-label={`${state.document.name}: all layouts`}
            title="All layouts"
            onClick={() => set({ page: "layouts" })}
          >
            <span className="truncate">{state.document.name}</span>
            <ChevronsUpDown size={13} aria-hidden="true" className="shrink-0 text-mute" />
          </button>
          <Saved />
          <People />
          <WhoAsked />
        </>
      ) : null}
      <span className="flex-1" />
      <button type="button" className="btn flex items-center gap-2" onClick={() => set({ finder: true })}>
        <Search size={14} aria-hidden="true" /> Find or do… <kbd className="text-[11px] text-mute">Ctrl K</kbd>
      </button>
      {state ? (
        <>
          <Segmented
            label="Units"
            value={units}
            options={[
              ["imperial", "ft · AWG"],
              ["metric", "m · mm²"],
            ]}
            onChange={(value) =>
              void edit(value === "metric" ? "Units to metres" : "Units to feet", [
                { op: "replace", path: "/brief/units", value },
              ])
            }
          />
          <button
            type="button"
            className="btn"
            aria-label="Undo"
            disabled={!state.can_undo}
            title={state.can_undo ? `Undo: ${state.can_undo}` : "Nothing to undo"}
            onClick={() => void undo()}
          >
            <Undo2 size={15} aria-hidden="true" />
          </button>
          <button
            type="button"
            className="btn"
            aria-label="Redo"
            disabled={!state.can_redo}
            title={state.can_redo ? `Redo: ${state.can_redo}` : "Nothing to redo"}
            onClick={() => void redo()}
          >
            <Redo2 size={15} aria-hidden="true" />
          </button>
        </>
      ) : null}
      {state ? <CopyLink link={linkHere} /> : null}
      <button
        type="button"
        className="btn"
        aria-label="Club file and helpers"
        title="Club file and helpers"
        onClick={() => set({ club: "file" })}
      >
        <Archive size={15} aria-hidden="true" />
      </button>
      <button
        type="button"
        className="btn"
        aria-label={theme === "dark" ? "Light theme" : "Dark theme"}
        title={theme === "dark" ? "Light theme" : "Dark theme"}
        onClick={() => set({ theme: theme === "dark" ? "light" : "dark" })}
      >
        {theme === "dark" ? <Sun size={15} aria-hidden="true" /> : <Moon size={15} aria-hidden="true" />}
      </button>
    </header>
  );
}
