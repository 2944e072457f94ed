import { type ReactNode, useState } from "react";
import { Segmented } from "../parts/Segmented";
import { Looks } from "../plan/Looks";
import { Plan } from "../plan/Plan";
import { useTab } from "../store/bench";

type Props<T extends string> = {
  /** What the panel beside the plan is called. */
  label: string;
  /** What lies under the plan, a tab each. */
  tabs: readonly (readonly [T, string])[];
  under: (tab: T) => ReactNode;
  /** Beside the tabs: what all of it amounts to. */
  words?: string;
  /** Whether what lies under may take most of the height. */
  grows?: boolean;
  /** Over the plan: what the tool in hand wants. */
  over?: ReactNode;
  /** Right under the plan, over the tabs. */
  foot?: ReactNode;
  /** Beside the plan. */
  children: ReactNode;
};

/** A step about the plan: the plan with its looks, tabs under it, and what can be done beside it. */
export function PlanStep<T extends string>({ label, tabs, under, words, grows, over, foot, children }: Props<T>) {
  const [tab, turn] = useTab(tabs);
  const [tall, setTall] = useState(false);
  const rows = tall ? "grid-rows-[minmax(0,26%)_minmax(0,1fr)]" : "grid-rows-[minmax(0,1fr)_minmax(200px,40%)]";
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_316px] xl:grid-cols-[minmax(0,1fr)_340px]">
      <div className={`grid min-h-0 min-w-0 ${rows}`}>
        <div className="grid min-h-0 grid-rows-[minmax(0,1fr)_auto]">
          <div className="relative min-h-0">
            <Looks />
            <Plan />
            {over}
          </div>
          {foot}
        </div>
        <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)] border-line border-t bg-card">
          <div className="no-print flex flex-wrap items-center gap-3 px-3 pt-2 pb-1.5">
            <Segmented label="Under the plan" value={tab} options={tabs} onChange={turn} />
            {grows ? (
              <button type="button" className="act text-xs" aria-pressed={tall} onClick={() => setTall(!tall)}>
                {tall ? "Smaller" : "Taller"}
              </button>
            ) : null}
            <span className="text-mute text-xs">{words}</span>
          </div>
          <div className="grid min-h-0 overflow-auto">{under(tab)}</div>
        </div>
      </div>
      <aside aria-label={label} className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        {children}
      </aside>
    </div>
  );
}
