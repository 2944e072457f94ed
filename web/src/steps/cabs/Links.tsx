import { useState } from "react";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";
import { useCabs } from "./queries";
import { useOffer } from "./useOffer";

/** Gaps where two controls meet: a block of either control with buffers at its ends. */
export function Links() {
  const { data } = useCabs();
  const { ask, told, busy } = useOffer();
  const layout = useLayout((s) => s.state?.document);
  const picked = useBench((s) => s.picked);
  const kinds = new Set((data?.sources ?? []).map((s) => s.control));
  if (!data || kinds.size < 2) return null;
  const name = picked ? layout?.tracks?.[picked.track]?.name : null;
  return (
    <Fold title="Between two controls" open>
      <p className="text-[11.5px] text-mute">
        No train may bridge from one control to another. A buffer at each end of a block parts them: longer than{" "}
        {data.reach_text}.
      </p>
      {data.bare_gaps.map((m) => (
        <div key={`${m.track}:${m.at}`} className="mt-1.5 text-xs">
          <span className="text-oxide">{m.words}.</span>{" "}
          <button
            type="button"
            className="act"
            disabled={busy}
            onClick={() => void ask("cab-link", { track: m.track, at: m.at })}
          >
            Make its block one of either control…
          </button>
        </div>
      ))}
      {data.bare_gaps.length ? null : (
        <button
          type="button"
          className="btn mt-2"
          disabled={!picked || busy}
          onClick={() => picked && void ask("cab-link", { track: picked.track, at: picked.at })}
        >
          {name ? `Either control on ${name}…` : "Click track beside the gap first"}
        </button>
      )}
      {told}
    </Fold>
  );
}

/** Three-rail track: a throttle for each loop, and rails isolated so that wheels work something. */
export function ThreeRails() {
  const { data } = useCabs();
  const { ask, told, busy } = useOffer();
  const layout = useLayout((s) => s.state?.document);
  const picked = useBench((s) => s.picked);
  const [works, setWorks] = useState("Crossing gate");
  const [seconds, setSeconds] = useState<number | null>(3);
  if (!data?.three_rail) return null;
  const name = picked ? layout?.tracks?.[picked.track]?.name : null;
  return (
    <Fold title="Three rails" open>
      <p className="text-[11.5px] text-mute">
        The centre rail is gapped, the outers run through. Two transformers meet only after somebody has read that they
        are in phase: the findings say how.
      </p>
      <button type="button" className="btn mt-2" disabled={busy} onClick={() => void ask("throttle-loops", {})}>
        A throttle for each loop…
      </button>
      <div className="mt-2.5 grid grid-cols-2 gap-2">
        <Typed
          label="Wheels work"
          kind="text"
          shown={works}
          onTake={async (v) => {
            if (!String(v).trim()) return "Name what it works.";
            setWorks(String(v).trim());
            return null;
          }}
        />
        <Typed
          label="Begins before the train by"
          kind="text"
          shown={seconds === null ? "" : `${seconds} s`}
          placeholder="nothing"
          clearable
          onTake={async (v) => {
            if (v === null) {
              setSeconds(null);
              return null;
            }
            const number = Number(String(v).replace(/s$/, "").replace(",", ".").trim());
            if (!(number >= 0 && number <= 600)) return "Seconds, from 0 to 600.";
            setSeconds(number);
            return null;
          }}
        />
        <button
          type="button"
          className="btn col-span-2"
          disabled={!picked || busy}
          onClick={() => picked && void ask("isolated-rail", { track: picked.track, at: picked.at, works, seconds })}
        >
          {name ? `Isolate a rail of ${name} for it…` : "Click where its middle shall be"}
        </button>
      </div>
      {told}
    </Fold>
  );
}
