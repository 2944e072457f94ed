import { CloudOff } from "lucide-react";
import { useUnder } from "./store";

/** Says that entries wait on this phone; nothing when all are sent. */
export function Waiting() {
  const { waiting, through } = useUnder();
  if (!waiting.length && through) return null;
  const words = waiting.length
    ? `${waiting.length} ${waiting.length === 1 ? "entry waits" : "entries wait"} on this phone`
    : "No connection";
  return (
    <p role="status" className="flex items-center gap-2 bg-board px-4 py-1.5 text-[13px] text-amber">
      <CloudOff size={15} aria-hidden="true" /> {words}; sent by itself when the club’s computer answers.
    </p>
  );
}
