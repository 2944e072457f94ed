import { useState } from "react";
import type { Finding } from "../api/client";
import { Sheet } from "../parts/Sheet";
import { today } from "../parts/when";
import { useLayout } from "../store/layout";

/** Living with a finding: the reason is kept with the layout, for whoever comes next. */
export function Accept({ finding, onClose }: { finding: Finding; onClose: () => void }) {
  const edit = useLayout((s) => s.edit);
  const lead = useLayout((s) => s.state?.document.brief?.lead ?? "");
  const [reason, setReason] = useState("");
  const [by, setBy] = useState(lead);
  const [wrong, setWrong] = useState(false);
  const accept = () => {
    if (reason.trim().length < 3) return setWrong(true);
    const path = `/accepted/${finding.key.replaceAll("~", "~0").replaceAll("/", "~1")}`;
    const value = { reason: reason.trim(), by: by.trim(), on: today() };
    void edit("Accept a finding", [{ op: "add", path, value }]);
    onClose();
  };
  return (
    <Sheet title="Live with it, and say why" lead={finding.title} onClose={onClose}>
      <label className="mt-3 block text-xs">
        Reason, for whoever comes next
        <textarea
          className="field mt-1 h-20"
          value={reason}
          aria-invalid={wrong}
          onChange={(event) => {
            setReason(event.target.value);
            setWrong(false);
          }}
        />
      </label>
      {wrong ? (
        <p role="alert" className="text-oxide text-xs">
          A few words are needed: in five years nobody will remember.
        </p>
      ) : null}
      <label className="mt-2 block text-xs">
        Who says so
        <input className="field mt-1" value={by} onChange={(event) => setBy(event.target.value)} />
      </label>
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn" onClick={onClose}>
          Cancel
        </button>
        <button type="button" className="btn-main" onClick={accept}>
          Accept
        </button>
      </div>
    </Sheet>
  );
}
