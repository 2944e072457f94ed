import { useState } from "react";
import type { Shape } from "../../api/client";
import { useDeadTrack, useRails } from "../../api/queries";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Preview } from "../wire/Preview";
import { Fold } from "./Fold";

/** Every stretch that some turnout setting leaves dead, with the fewest cuts and feeders that would mend it. */
export function DeadTrack() {
  const { data: rails } = useRails();
  const { data, isFetching } = useDeadTrack((rails?.dead ?? 0) > 0);
  const count = rails?.dead ?? 0;
  return (
    <Fold title={`Dead track${count ? `, ${count}` : ""}`} open={true}>
      {count === 0 ? (
        <p className="text-mute text-xs">
          No stretch is left without power by any turnout setting, as far as it is fed. Short stubs of under 60 mm are
          not counted: no train stands on them.
        </p>
      ) : !data ? (
        <p className="animate-pulse text-mute text-xs">{isFetching ? "Trying every setting that matters…" : ""}</p>
      ) : (
        <ul className="grid gap-2" data-testid="dead-track">
          {data.map((d) => (
            <Stretch key={`${d.track}${d.at}`} dead={d} />
          ))}
        </ul>
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
      <p className="font-semibold">{dead.title}</p>
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
