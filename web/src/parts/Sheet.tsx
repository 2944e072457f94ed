import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";

/** A dialog: a sheet of paper laid on the bench; docked, it lies beside the plan, which can be looked at meanwhile. */
export function Sheet({
  title,
  lead,
  docked = false,
  wide = false,
  onClose,
  children,
}: {
  title: string;
  lead?: string;
  docked?: boolean;
  /** Room for a table. */
  wide?: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  // Whoever opened it by keyboard goes on from there; it has no trigger of its own to return to.
  const [before] = useState(() => document.activeElement);
  return (
    <Dialog.Root open modal={!docked} onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        {docked ? null : <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />}
        <Dialog.Content
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (before instanceof HTMLElement) before.focus();
          }}
          onInteractOutside={(event) => docked && event.preventDefault()}
          className={`fixed z-50 overflow-y-auto border border-line bg-card text-ink shadow-2xl ${
            docked
              ? "right-0 bottom-0 max-h-[70vh] w-[min(326px,100vw)] rounded-tl-xl border-copper border-r-0 border-b-0 p-3.5"
              : `left-1/2 -translate-x-1/2 rounded-xl p-5 ${wide ? "top-[7vh] max-h-[86vh] w-[min(1040px,95vw)]" : "top-[16vh] max-h-[70vh] w-[min(520px,92vw)]"}`
          }`}
        >
          <Dialog.Title className="font-bold text-[15px] leading-snug">{title}</Dialog.Title>
          <Dialog.Description className="mt-1 text-mute text-xs">{lead ?? ""}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
