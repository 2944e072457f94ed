import type { Shape } from "../../api/client";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** Each place where a train comes back on itself, by kind, in words; and what the tables ask for. */
export function Places({ rails }: { rails: Shape["RailsShape"] }) {
  const show = useBench((s) => s.show);
  const control = useLayout((s) => s.state?.document.brief?.control);
  const tracks = useLayout((s) => Object.keys(s.state?.document.tracks ?? {}).length);
  const open = rails.conflicts.filter((c) => !c.settled);
  const go = (c: Shape["ConflictShape"]) => {
    const track = c.tracks[0];
    show({ kind: "node", id: c.at }, track ? { track, at: 0 } : null, [c.at, ...c.tracks]);
  };
  return (
    <section className="border-line border-b p-3" aria-label="Where trains come back" data-testid="places">
      <h2 className="flex items-baseline justify-between font-bold text-sm">
        Where trains come back
        <span className="font-medium text-mute text-xs">
          {open.length ? `${open.length} open` : rails.conflicts.length ? "all settled" : "nowhere"}
        </span>
      </h2>
      {rails.conflicts.length === 0 ? (
        <p className="mt-1 text-mute text-xs">
          {tracks
            ? "However the turnouts lie, no train on this track comes back facing the other way. No reversing section is needed."
            : "Nothing is drawn yet."}
        </p>
      ) : null}
      {control === "ac3" && rails.conflicts.length ? (
        <p className="mt-1 text-xs">Three-rail: both outside rails are alike, so none of these needs a section.</p>
      ) : null}
      <ul className="mt-2 grid gap-1.5">
        {rails.conflicts.map((c) => (
          <li key={c.at + c.tracks.join()} className="rounded-[9px] border border-line bg-paper px-2.5 py-2">
            <p className="flex items-start gap-2 font-semibold text-[12.5px] leading-snug">
              <i
                aria-hidden="true"
                className={`mt-1 block size-[9px] shrink-0 ${c.settled ? "rounded-full bg-verd" : "rotate-45 bg-oxide"}`}
              />
              {bound(c.words)}
            </p>
            <p className="mt-0.5 text-[11.5px] text-mute">
              {c.kind}, {bound(c.length_text)} round;{" "}
              {c.settled ? "a reversing section parts it" : "no reversing section yet"}
            </p>
            <button type="button" className="act mt-0.5" onClick={() => go(c)} aria-label={`Show: ${c.words}`}>
              Show
            </button>
          </li>
        ))}
      </ul>
      {rails.tables.map((t) => (
        <div
          key={t.node}
          className="mt-2 rounded-[9px] border border-line bg-paper px-2.5 py-2 text-[12px] leading-snug"
        >
          {t.sentences.map((s, k) => (
            <p key={s} className={k ? "mt-1" : ""}>
              {s}
            </p>
          ))}
          <button
            type="button"
            className="act mt-0.5"
            onClick={() => show({ kind: "node", id: t.node }, null, [t.node, ...t.swap])}
          >
            Show
          </button>
        </div>
      ))}
    </section>
  );
}
