import { useState } from "react";
import type { Shape } from "../../api/client";
import { useRails } from "../../api/queries";
import { useDeadTrack } from "../../api/useDeadTrack";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "./Fold";

/** Every stretch that some turnout setting leaves dead, with the fewest cuts and feeders that would mend it. */
export function DeadTrack() {
  const { data: rails } = useRails();
  const count = rails?.dead ?? 0;
  const { found, doing, wrong, stopped, again, stop } = useDeadTrack(count > 0);
  return (
    <Fold title={`Dead track${count ? `, ${count}` : ""}`} open={true}>
      {count === 0 ? (
        <p className="text-mute text-xs">
          No stretch is left without power by any turnout setting, as far as it is fed. Short stubs of under 60 mm are
          not counted: no train stands on them.
        </p>
      ) : (
        <>
          {doing ? (
            <p className="mb-2 flex items-center gap-2 text-mute text-xs" role="status">
              <span>
                {doing[1] ? `Looking for remedies, ${doing[0]} of ${doing[1]}…` : "Trying every setting that matters…"}
              </span>
              <button type="button" className="act" onClick={stop}>
                Stop
              </button>
            </p>
          ) : null}
          {stopped ? (
            <p className="mb-2 text-mute text-xs">
              Stopped after {found.length} of {count}.{" "}
              <button type="button" className="act" onClick={() => void again()}>
                Look again
              </button>
            </p>
          ) : null}
          {wrong ? <p className="mb-2 text-xs">{wrong}</p> : null}
          {found.length ? (
            <ul className="grid gap-2" data-testid="dead-track">
              {found.map((d) => (
                <Stretch key={`${d.track}${d.at}`} dead={d} />
              ))}
            </ul>
          ) : null}
        </>
      )}
    </Fold>
  );
}

function Stretch({ dead }: { dead: Shape["DeadShape"] }) {
  const { show, set } = useBench();
  const edit = useLayout((s) => s.edit);
  const [preview, setPreview] = useState(false);
  const settings = Object.entries(dead.settings);
  return (
    <li className="rounded-lg border border-line bg-paper p-2 text-[12px] leading-snug">
      <p className="font-semibold">{bound(dead.title)}</p>
      {dead.remedy ? <p className="mt-0.5 text-mute">{dead.remedy.label}.</p> : null}
      <div className="mt-1 flex flex-wrap gap-x-3">
        <button
          type="button"
          className="act"
          onClick={() => {
            show({ kind: "track", id: dead.track }, { track: dead.track, at: dead.at }, [dead.track, ...dead.route]);
            set({ look: "phase" });
          }}
        >
          Show
        </button>
        {settings.length ? (
          <button
            type="button"
            className="act"
            onClick={() => {
              set({ look: "phase" });
              void edit(
                "Set the turnouts of a dead case",
                settings.map(([node, lies]) => ({ op: "replace", path: `/nodes/${node}/lies`, value: lies })),
              );
            }}
          >
            Set the turnouts so
          </button>
        ) : null}
        {dead.remedy ? (
          <button type="button" className="act" onClick={() => setPreview(true)}>
            Mend it…
          </button>
        ) : null}
      </div>
      {preview && dead.remedy ? (
        <Preview title={dead.title} mend={dead.remedy} onClose={() => setPreview(false)} />
      ) : null}
    </li>
  );
}
