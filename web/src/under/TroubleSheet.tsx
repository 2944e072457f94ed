import { Dialog } from "radix-ui";
import { useState } from "react";
import type { Task } from "./store";
import { TROUBLES } from "./words";

/** What is wrong, by one tap or in words. */
export function TroubleSheet({
  task,
  onClose,
  onSay,
}: {
  task: Task;
  onClose: () => void;
  onSay: (note: string) => void;
}) {
  const [note, setNote] = useState("");
  const say = (words: string) => {
    onClose();
    onSay(words);
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed bottom-0 left-1/2 z-50 max-h-[88dvh] w-[min(520px,100vw)] -translate-x-1/2 overflow-y-auto rounded-t-2xl border-line border-t bg-card p-4 text-[16px] text-ink"
        >
          <Dialog.Title className="font-bold text-[18px]">Trouble with {task.label}</Dialog.Title>
          <div className="mt-3 grid gap-2">
            {TROUBLES[task.kind].map((words) => (
              <button
                key={words}
                type="button"
                className="h-13 rounded-xl border border-line bg-board px-4 text-left font-semibold"
                onClick={() => say(note.trim() ? `${words}. ${note.trim()}` : words)}
              >
                {words}
              </button>
            ))}
          </div>
          <label className="mt-3 block text-[14px] text-mute">
            Or in your words
            <textarea
              className="mt-1 block h-20 w-full rounded-xl border border-line bg-paper p-3 text-[16px] text-ink"
              value={note}
              maxLength={400}
              onChange={(e) => setNote(e.target.value)}
            />
          </label>
          <div className="mt-3 flex gap-2.5">
            <button type="button" className="h-14 flex-1 rounded-xl border border-line" onClick={onClose}>
              Back
            </button>
            <button
              type="button"
              className="h-14 flex-[2] rounded-xl bg-copper font-bold text-[#1a1208] disabled:opacity-45"
              disabled={!note.trim()}
              onClick={() => say(note.trim())}
            >
              Note it
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
