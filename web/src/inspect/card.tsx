import { X } from "lucide-react";
import type { ReactNode } from "react";
import type { Layout } from "../api/client";
import { CopyLink } from "../parts/CopyLink";
import { linkHere } from "../shell/address";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";

export type CardProps = { id: string; layout: Layout };

export function useSet(path: string, what: string) {
  const edit = useLayout((s) => s.edit);
  return (field: string, value: unknown, words: string) =>
    edit(`${what}: ${words}`, [{ op: "replace", path: `${path}/${field}`, value }], true);
}

export function Head({ title, children }: { title: string; children?: ReactNode }) {
  const select = useBench((s) => s.select);
  return (
    <header className="mb-2 flex items-start justify-between gap-2">
      <div>
        <h2 className="font-bold text-sm">{title}</h2>
        <div className="text-mute text-xs">{children}</div>
      </div>
      <span className="flex shrink-0 items-center gap-1">
        <CopyLink link={linkHere} />
        <button type="button" className="btn px-1 py-0.5" aria-label="Close" onClick={() => select(null)}>
          <X size={13} aria-hidden="true" />
        </button>
      </span>
    </header>
  );
}

/** Takes a thing off the plan, with what hangs on it. */
export function Remove({ kind, id, words }: { kind: string; id: string; words: string }) {
  const draw = useLayout((s) => s.draw);
  const select = useBench((s) => s.select);
  return (
    <button
      type="button"
      className="act"
      onClick={() => {
        void draw({ act: "erase", things: [{ kind: kind as never, id }] });
        select(null);
      }}
    >
      {words}
    </button>
  );
}
