import { useBench } from "../../store/bench";
import { TOOL_GROUPS } from "./toolList";

/** The tools, by what they are for; each says its key. */
export function ToolBox() {
  const { tool, set } = useBench();
  return (
    <div
      role="toolbar"
      aria-label="Tools"
      aria-orientation="vertical"
      className="no-print flex min-h-0 flex-col overflow-y-auto border-line border-r bg-card px-1.5 py-2"
    >
      {TOOL_GROUPS.map(([title, rows]) => (
        <div key={title} className="mb-1.5">
          {title ? <h3 className="px-1.5 pt-1 pb-0.5 font-bold text-[10.5px] text-mute">{title}</h3> : null}
          {rows.map(([name, words, key]) => (
            <button
              key={name}
              type="button"
              aria-pressed={tool === name}
              className={`fade flex w-full items-center justify-between rounded-md px-1.5 py-[3px] text-left text-[12px] ${
                tool === name ? "bg-strong font-medium text-onstrong" : "hover:bg-board"
              }`}
              onClick={() => set({ tool: name, note: null, measure: [] })}
            >
              {words}
              {key ? <kbd className="text-[10px] opacity-70">{key.toUpperCase()}</kbd> : null}
            </button>
          ))}
        </div>
      ))}
    </div>
  );
}
