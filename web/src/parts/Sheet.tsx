import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";

/** A dialog: a sheet of paper laid on the bench. */
export function Sheet({
  title,
  lead,
  onClose,
  children,
}: {
  title: string;
  lead?: string;
  onClose: () => void;
  children: ReactNode;
}) {
  // Whoever opened it by keyboard goes on from there; it has no trigger of its own to return to.
  const [before] = useState(() => document.activeElement);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (before instanceof HTMLElement) before.focus();
          }}
          className="fixed top-[16vh] left-1/2 z-50 max-h-[70vh] w-[min(520px,92vw)] -translate-x-1/2 overflow-y-auto rounded-xl border border-line bg-card p-5 text-ink shadow-2xl"
        >
          <Dialog.Title className="font-bold text-[15px] leading-snug">{title}</Dialog.Title>
          <Dialog.Description className="mt-1 text-mute text-xs">{lead ?? ""}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
