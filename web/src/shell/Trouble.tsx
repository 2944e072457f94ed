import { X } from "lucide-react";
import { useLayout } from "../store/layout";

/** A refusal or a lost line, in words, with what can be done; it stays until read. */
export function Trouble() {
  const { trouble, forgive } = useLayout();
  if (!trouble) return null;
  return (
    <div
      role="alert"
      className="fixed bottom-4 left-1/2 z-50 flex max-w-[640px] -translate-x-1/2 items-center gap-3 rounded-lg border-2 border-oxide bg-card px-4 py-2.5 shadow-lg"
    >
      <span className="text-[13px]">{trouble.message}</span>
      {trouble.retry ? (
        <button
          type="button"
          className="btn"
          onClick={() => {
            forgive();
            trouble.retry?.();
          }}
        >
          Do it again
        </button>
      ) : null}
      <button type="button" className="btn" aria-label="Close" onClick={forgive}>
        <X size={14} aria-hidden="true" />
      </button>
    </div>
  );
}
