import { type ReactNode, useState } from "react";

/** A part of the side column that can be folded away. */
export function Fold({ title, children, open = true }: { title: string; children: ReactNode; open?: boolean }) {
  const [shown, setShown] = useState(open);
  return (
    <section className="border-line border-b p-3" aria-label={title}>
      <h2 className="font-bold text-sm">
        <button
          type="button"
          aria-expanded={shown}
          className="flex w-full items-center justify-between text-left"
          onClick={() => setShown(!shown)}
        >
          {title}
          <span aria-hidden="true" className="text-mute text-xs">
            {shown ? "−" : "+"}
          </span>
        </button>
      </h2>
      {shown ? <div className="mt-2">{children}</div> : null}
    </section>
  );
}
