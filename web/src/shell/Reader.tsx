import { HardHat, Moon, Search, Sun } from "lucide-react";
import { Findings } from "../findings/Findings";
import { Inspector } from "../inspect/Inspector";
import { Looks } from "../plan/Looks";
import { Plan } from "../plan/Plan";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";

/** The bench on a phone: to read, find and look; to work there is the view under the boards. */
export function Reader() {
  const state = useLayout((s) => s.state);
  const { theme, selected, set } = useBench();
  return (
    <div className="flex h-full flex-col">
      <header className="flex items-center gap-2 border-line border-b px-3 py-2">
        <h1 className="min-w-0 flex-1 truncate font-bold text-[15px]">{state?.document.name ?? "Jolly Copper"}</h1>
        <button type="button" className="btn p-2" aria-label="Find or do" onClick={() => set({ finder: true })}>
          <Search size={18} aria-hidden="true" />
        </button>
        <button
          type="button"
          className="btn p-2"
          aria-label={theme === "dark" ? "Light theme" : "Dark theme"}
          onClick={() => set({ theme: theme === "dark" ? "light" : "dark" })}
        >
          {theme === "dark" ? <Sun size={18} aria-hidden="true" /> : <Moon size={18} aria-hidden="true" />}
        </button>
      </header>
      <main className="flex min-h-0 flex-1 flex-col" id="work">
        {state ? (
          <>
            <div className="relative h-[44vh] shrink-0 border-line border-b">
              <Looks />
              <Plan />
            </div>
            <a
              className="m-3 flex shrink-0 items-center justify-center gap-2 rounded-lg bg-link px-3 py-3 font-semibold text-[15px] text-paper"
              href={`/under?layout=${state.id}`}
            >
              <HardHat size={18} aria-hidden="true" /> Under the boards
            </a>
            <div className="min-h-0 flex-1 overflow-y-auto">
              {selected ? <Inspector /> : null}
              <Findings />
            </div>
          </>
        ) : (
          <p className="p-6 text-mute">Opening the layout…</p>
        )}
      </main>
    </div>
  );
}
