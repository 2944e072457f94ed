import { Link2 } from "lucide-react";
import { useRef, useState } from "react";

/** Copies the link to what is looked at. Where the browser does not let a page copy, the link is shown to be copied by hand. */
export function CopyLink({
  link,
  words = "Copy link to this",
  small,
}: {
  link: () => string;
  words?: string;
  small?: boolean;
}) {
  const [said, setSaid] = useState<string | null>(null);
  const [shown, setShown] = useState<string | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const copy = async () => {
    const text = link();
    try {
      await navigator.clipboard.writeText(text);
      setSaid("Copied");
      clearTimeout(timer.current);
      timer.current = setTimeout(() => setSaid(null), 2500);
    } catch {
      // An address without encryption, as on a club's own network.
      setShown(text);
    }
  };
  return (
    <>
      <button
        type="button"
        className={small ? "act" : "btn"}
        title={words}
        aria-label={small ? undefined : words}
        onClick={() => void copy()}
      >
        {small ? (said ?? words) : <Link2 size={15} aria-hidden="true" />}
      </button>
      {small || !said ? null : (
        <span role="status" className="text-mute text-xs">
          {said}
        </span>
      )}
      {shown ? (
        <input
          readOnly
          aria-label="Link, to copy"
          className="field w-56"
          value={shown}
          // biome-ignore lint/a11y/noAutofocus: it was asked for, to be copied at once
          autoFocus
          onFocus={(event) => event.target.select()}
          onBlur={() => setShown(null)}
        />
      ) : null}
    </>
  );
}
