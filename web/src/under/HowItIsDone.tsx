import { Dialog } from "radix-ui";
import { useState } from "react";
import { type Task, useUnder } from "./store";

/** Cards on how a kind of job is done: one screen each, with a drawing. */
export function HowItIsDone({ kind }: { kind: Task["kind"] }) {
  const cards = useUnder((s) => s.pages?.craft ?? []).filter((c) => c.kinds.includes(kind));
  const [at, setAt] = useState<number | null>(null);
  const card = at === null ? undefined : cards[at];
  if (!cards.length) return null;
  return (
    <>
      <details className="mt-2.5 rounded-xl bg-card px-3.5 py-2.5">
        <summary className="cursor-pointer text-[14px] text-mute">How it is done</summary>
        <div className="mt-1.5 flex flex-wrap gap-2">
          {cards.map((c, n) => (
            <button
              key={c.key}
              type="button"
              className="min-h-11 rounded-lg border border-line bg-board px-3 text-left font-semibold text-[14.5px]"
              onClick={() => setAt(n)}
            >
              {c.title}
            </button>
          ))}
        </div>
      </details>
      {card ? (
        <Dialog.Root open onOpenChange={(open) => !open && setAt(null)}>
          <Dialog.Portal>
            <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
            <Dialog.Content
              aria-describedby={undefined}
              className="fixed inset-0 z-50 m-auto flex h-dvh w-[min(520px,100vw)] flex-col overflow-y-auto bg-card p-4 text-[16px] text-ink"
              data-testid="craft"
            >
              <Dialog.Title className="font-bold text-[22px]">{card.title}</Dialog.Title>
              <img
                className="mt-2 w-full rounded-lg border border-line bg-white"
                alt={/<title>([^<]*)/.exec(card.svg)?.[1] ?? card.title}
                src={`data:image/svg+xml;utf8,${encodeURIComponent(card.svg)}`}
              />
              <ol className="mt-3 grid list-decimal gap-2 pl-6">
                {card.says.map((s) => (
                  <li key={s}>{s}</li>
                ))}
              </ol>
              {card.caution ? (
                <p className="mt-3 rounded-xl border border-amber px-3.5 py-2.5 text-amber">{card.caution}</p>
              ) : null}
              <p className="mt-2 text-[13px] text-mute">
                Common practice; what is printed on the thing in hand comes first.
              </p>
              <div className="mt-auto flex gap-2.5 pt-3">
                <button
                  type="button"
                  className="h-14 flex-1 rounded-xl border border-line bg-board font-bold"
                  onClick={() => setAt(null)}
                >
                  Back to the task
                </button>
                {cards.length > 1 ? (
                  <button
                    type="button"
                    className="h-14 flex-1 rounded-xl border border-line bg-board font-bold"
                    onClick={() => setAt(((at ?? 0) + 1) % cards.length)}
                  >
                    Next card
                  </button>
                ) : null}
              </div>
            </Dialog.Content>
          </Dialog.Portal>
        </Dialog.Root>
      ) : null}
    </>
  );
}
