import { useEffect } from "react";
import { LOOK_NAMES } from "../plan/lookNames";
import { TOOL_KEYS } from "../steps/track/toolList";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

/** Where Ctrl+Z is the field's own: it takes back letters. A choice or a tick has none to take back. */
const writing = (target: EventTarget | null) =>
  typing(target) && !(target as HTMLElement).matches("select, [type=checkbox], [type=radio], [type=range]");

/** Keys that work everywhere; the plan has its own beside. */
export function useKeys() {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const bench = useBench.getState();
      const layout = useLayout.getState();
      const command = event.ctrlKey || event.metaKey;
      const key = event.key.toLowerCase();
      if (command && key === "k") {
        event.preventDefault();
        bench.set({ finder: !bench.finder });
        return;
      }
      if ((command ? writing : typing)(event.target) || bench.finder || bench.club) return;
      if (command && key === "z") {
        event.preventDefault();
        void (event.shiftKey ? layout.redo() : layout.undo());
      } else if (command && key === "y") {
        event.preventDefault();
        void layout.redo();
      } else if (!command && !event.altKey) {
        const look = LOOK_NAMES.find(([, , letter]) => letter === key)?.[0];
        if (look) bench.set({ look });
        if (bench.step === "track") {
          const tool = TOOL_KEYS[key];
          if (tool) bench.set({ tool, note: null });
        }
        if (key === "escape" && (bench.paint || bench.placing)) bench.set({ paint: null, placing: null });
        else if (key === "escape")
          bench.set({ selected: null, chosen: [], bend: null, picked: null, lit: [], finding: null, note: null });
      }
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);
}
