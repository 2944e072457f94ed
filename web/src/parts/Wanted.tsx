import { useLayout } from "../store/layout";

/** Whether the club wants something at all: said here, the step counts as sound without it. */
export function Wanted({ what, path }: { what: "detection" | "signals"; path: "detecting" | "signalling" }) {
  const wanted = useLayout((s) => s.state?.document.brief?.[path]?.wanted ?? true);
  const edit = useLayout((s) => s.edit);
  return (
    <label className="mb-2 flex min-h-6 items-center gap-2 text-xs">
      <input
        type="checkbox"
        className="size-4 accent-[var(--copper)]"
        checked={!wanted}
        onChange={(event) =>
          void edit(event.target.checked ? `No ${what} wanted` : `The club wants ${what}`, [
            { op: "replace", path: `/brief/${path}/wanted`, value: !event.target.checked },
          ])
        }
      />
      The club wants no {what}
    </label>
  );
}
