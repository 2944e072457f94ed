import { useEffect } from "react";
import { useRails } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench } from "../../store/bench";
import { Places } from "./Places";
import { Proposals } from "./Proposals";
import { SectionTable } from "./SectionTable";

/** Where trains come back on themselves, where to gap, and every section between gaps. */
export function ReverseStep() {
  const { data } = useRails();
  const selected = useBench((s) => s.selected);
  useEffect(() => {
    return () => useBench.getState().set({ ghostGaps: [] });
  }, []);
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_340px] xl:grid-cols-[minmax(0,1fr)_380px]">
      <div className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_minmax(140px,30%)]">
        <div className="relative min-h-0">
          <Looks />
          <Plan />
        </div>
        <SectionTable />
      </div>
      <aside aria-label="Reversing" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {selected ? <Inspector /> : null}
        {/* Where a train comes back is listed with its proposal below; the rest is said here. */}
        <div className="max-h-[40%] shrink-0 overflow-y-auto border-line border-b empty:hidden">
          <Findings step="reverse" but="train comes back on itself" />
        </div>
        {data ? <Places rails={data} /> : <p className="p-3 text-mute">Working it out…</p>}
        <Proposals />
      </aside>
    </div>
  );
}
