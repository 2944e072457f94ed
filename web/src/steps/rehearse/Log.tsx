import { useEffect, useMemo, useRef, useState } from "react";
import { clock, lastBefore, useEvening } from "../../store/evening";
import { isLoud, isQuiet } from "./about";
import { goTo } from "./run";

const MARK: Record<string, string> = { "unseen train": "text-link", dark: "text-link" };
const MOST = 600;

/** The log: everything that happened, with its moment; quiet things shown when asked for. */
export function Log() {
  const trace = useEvening((s) => s.trace);
  const grown = useEvening((s) => s.grown);
  const second = useEvening((s) => Math.floor(s.now));
  const [all, setAll] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the trace grows in place
  const entries = useMemo(() => trace?.entries.filter((e) => all || !isQuiet(e)) ?? [], [trace, grown, all]);
  const now = useRef<HTMLTableRowElement>(null);
  const here = lastBefore(entries, (k) => entries[k]?.t ?? 0, second + 0.999);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever the moment comes to another line
  useEffect(() => {
    now.current?.scrollIntoView({ block: "nearest" });
  }, [here]);
  if (!trace)
    return (
      <p className="p-3 text-mute text-sm">
        Run an evening, beside the plan: everything that happens stands here, with its moment and its reason.
      </p>
    );
  const start = Math.max(0, Math.min(here - MOST / 2, entries.length - MOST));
  return (
    <div className="min-h-0 overflow-auto" data-testid="log">
      <div className="sticky top-0 z-10 flex items-center gap-3 bg-card px-3 py-1 text-xs">
        <label className="flex items-center gap-1">
          <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} />
          also comings and waits
        </label>
        <span className="text-mute">
          {entries.length} things{entries.length > MOST ? `, ${MOST} round this moment shown` : ""}
        </span>
      </div>
      <table className="w-full text-[12.5px]">
        <tbody>
          {entries.slice(start, start + MOST).map((e, k) => (
            <tr
              key={e.n}
              ref={start + k === here ? now : undefined}
              className={`border-line border-b align-baseline ${start + k === here ? "bg-paper" : ""}`}
            >
              <td className="figure w-[74px] py-0.5 pl-3 text-mute">{clock(e.t)}</td>
              <td className={`w-[112px] py-0.5 pr-2 ${isLoud(e) ? "text-oxide" : (MARK[e.kind] ?? "text-mute")}`}>
                {e.kind}
              </td>
              <td className="py-0.5 pr-3">
                <button
                  type="button"
                  className="text-left hover:underline"
                  onClick={() => {
                    useEvening.setState({ about: { kind: "entry", id: String(e.n) } });
                    goTo(e.t, e.track, e.at);
                  }}
                >
                  {e.words}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
