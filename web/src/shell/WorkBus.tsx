import { Calculator } from "lucide-react";
import { useFindings, useFleet } from "../api/queries";
import { type Step, useBench } from "../store/bench";
import { useLayout } from "../store/layout";

type Condition = "clean" | "settle" | "must" | "none";
const SAYS: Record<Condition, string> = {
  clean: "nothing to settle",
  settle: "something to settle",
  must: "something must be settled",
  none: "",
};

/** A terminal on the copper bus. Its state speaks by shape as well as colour: tick, dash, cross, open. */
function Terminal({ condition, here }: { condition: Condition; here: boolean }) {
  const fill = { clean: "var(--verd)", settle: "var(--amber)", must: "var(--oxide)", none: "var(--paper)" }[condition];
  const mark = { clean: "M4 8.2l2.6 2.6L12 5.4", settle: "M4.4 8h7.2", must: "M5 5l6 6M11 5l-6 6", none: "" }[
    condition
  ];
  const ink = condition === "settle" ? "#3a2a05" : "var(--paper)";
  return (
    <svg width="20" height="20" viewBox="-2 -2 20 20" aria-hidden="true" className="absolute left-[13px]">
      {here ? <rect x="-1.5" y="-1.5" width="19" height="19" rx="5" fill="var(--copper)" opacity="0.28" /> : null}
      <rect x="0.9" y="0.9" width="14.2" height="14.2" rx="3" fill={fill} stroke="var(--link)" strokeWidth="1.8" />
      <path d={mark} stroke={ink} strokeWidth="2" fill="none" strokeLinecap="round" />
    </svg>
  );
}

export function WorkBus() {
  const { step, set } = useBench();
  const state = useLayout((s) => s.state);
  const { data } = useFindings();
  const { data: fleet } = useFleet();
  const open = data?.filter((f) => !f.accepted) ?? [];
  const wire: Condition = !data
    ? "none"
    : open.some((f) => f.severity === "must")
      ? "must"
      : open.length
        ? "settle"
        : "clean";
  const over = (step: Step): Condition => {
    if (!data) return "none";
    const mine = open.filter((f) => f.steps.includes(step));
    return mine.some((f) => f.severity === "must") ? "must" : mine.length ? "settle" : "clean";
  };
  const taps: [Step, string, Condition][] = [
    ["brief", "Brief", state ? "clean" : "none"],
    ["track", "Track", over("track")],
    [
      "trains",
      "Trains",
      fleet ? (fleet.asked.some((a) => a.over) ? "settle" : fleet.guesses ? "settle" : "clean") : "none",
    ],
    ["zones", "Zones", over("zones")],
    ["wire", "Wire", wire],
    [
      "table",
      "Wire table",
      open.some((f) => f.place.kind === "feeder" || f.place.kind === "run")
        ? wire === "clean"
          ? "clean"
          : "settle"
        : wire === "none"
          ? "none"
          : "clean",
    ],
    ["reverse", "Reverse", over("reverse")],
    ["detect", "Detect", over("detect")],
    ["signal", "Signal", over("signal")],
    ["book", "Book", over("book")],
  ];
  const tap = (key: Step) =>
    `relative flex h-11 w-full items-center pl-[38px] pr-1 text-left text-[12.5px] leading-tight fade ${
      step === key ? "bg-card font-bold shadow-[inset_-3px_0_0_var(--copper)]" : "text-ink hover:bg-board"
    }`;
  return (
    <nav aria-label="Steps of the work" className="no-print relative flex flex-col border-line border-r pt-3.5">
      <span
        aria-hidden="true"
        className="absolute top-0 bottom-0 left-[21px] w-[5px] bg-linear-to-r from-[#8A4519] via-[#D98B55] to-[#8A4519]"
      />
      {taps.map(([key, name, condition]) => (
        <button
          key={key}
          type="button"
          className={tap(key)}
          aria-current={step === key ? "step" : undefined}
          onClick={() => set({ step: key })}
        >
          <Terminal condition={condition} here={step === key} />
          <span>
            {name}
            <span className="sr-only">{SAYS[condition] ? `, ${SAYS[condition]}` : ""}</span>
          </span>
        </button>
      ))}
      <span className="flex-1" />
      <button
        type="button"
        className={`${tap("sums")} bg-paper border-line border-t`}
        aria-current={step === "sums" ? "step" : undefined}
        onClick={() => set({ step: "sums" })}
      >
        <Calculator size={17} className="absolute left-[15px] text-link" aria-hidden="true" />
        Quick sums
      </button>
    </nav>
  );
}
