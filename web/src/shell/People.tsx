import { Check, Users, X } from "lucide-react";
import { useState } from "react";
import { useLayout } from "../store/layout";
import { useMe } from "../store/me";

/** Who else has this layout open, and what they changed last. */
export function People() {
  const { others, news } = useMe();
  if (!others.length && !news) return null;
  return (
    <span className="flex min-w-0 items-center gap-1.5 text-xs" data-testid="people">
      <Users size={14} aria-hidden="true" className="shrink-0 text-link" />
      <span className="sr-only">Also here: </span>
      <span className="max-w-32 truncate" title={`Also here: ${others.join(", ")}`}>
        {others.join(", ")}
      </span>
      <span role="status" className="max-w-56 truncate text-mute" title={news ?? undefined}>
        {news}
      </span>
    </span>
  );
}

/** Asks once who is working here, after the first change; who does not want to say is not asked again. */
export function WhoAsked() {
  const { asked, call } = useMe();
  const changed = useLayout((s) => s.ours.size > 0);
  const [name, setName] = useState("");
  if (asked || !changed) return null;
  return (
    <form
      className="no-print flex min-w-0 shrink items-center gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        call(name.trim());
      }}
    >
      <input
        className="field w-28 py-0.5 text-xs"
        maxLength={40}
        aria-label="Who is working here"
        title="Stands beside your changes. Asked once."
        placeholder="Who are you?"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <button
        type="submit"
        className="btn px-1.5 py-0.5"
        aria-label={name.trim() ? "That is me" : "Rather not say"}
        title={name.trim() ? "That is me" : "Rather not say"}
      >
        {name.trim() ? <Check size={13} aria-hidden="true" /> : <X size={13} aria-hidden="true" />}
      </button>
    </form>
  );
}
