import { X } from "lucide-react";
import { useState } from "react";
import { useWorkOrder } from "../api/queries";
import { bound } from "../parts/bound";
import { useBench } from "../store/bench";
import { keep, kept } from "../store/bench/kept";
import { STEP_NAMES } from "./stepNames";

/** What the step at hand is for and how it stands, until somebody has read it. */
export function Purpose() {
  const step = useBench((s) => (s.step === "table" ? "wire" : s.step));
  const { data } = useWorkOrder();
  const [read, setRead] = useState(() => (kept("read") ?? "").split(" "));
  const standing = data?.steps.find((s) => s.step === step);
  const purpose = STEP_NAMES.find(({ key }) => key === step)?.purpose;
  if (!purpose || read.includes(step)) return null;
  const dismiss = () => {
    const now = [...read, step];
    keep("read", now.join(" "));
    setRead(now);
  };
  return (
    <p
      className="no-print flex h-[29px] items-center gap-2 border-line border-b bg-board px-3 text-[12px] leading-snug"
      data-testid="purpose"
    >
      <span className="min-w-0 flex-1 truncate" title={purpose}>
        {purpose} <span className="text-mute">{bound(standing?.reason)}</span>
      </span>
      <button
        type="button"
        className="btn shrink-0 px-1.5 py-0.5"
        aria-label="I know what this step is for"
        onClick={dismiss}
      >
        <X size={13} aria-hidden="true" />
      </button>
    </p>
  );
}
