import { type ReactNode, useRef } from "react";

type Props = {
  /** What is chosen, for whoever does not see the button. */
  label: string;
  accept: string;
  onPick: (file: File) => void;
  disabled?: boolean;
  className?: string;
  children: ReactNode;
};

/** A button that chooses a file. The same one may be chosen twice in a row. */
export function FilePick({ label, accept, onPick, disabled, className = "btn", children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) onPick(file);
        }}
      />
      <button type="button" className={className} disabled={disabled} onClick={() => input.current?.click()}>
        {children}
      </button>
    </>
  );
}
