import { useState } from "react";
import { useAnswers } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";
import { useOffer } from "./useOffer";

type Spot = { track: string; at: number };
const ANY = "the one that needs most";

/** Places where digital trains stop by themselves: here, before a signal, or at both ends of a shuttle. */
export function Stops() {
  const layout = useLayout((s) => s.state?.document);
  const picked = useBench((s) => s.picked);
  const signal = useBench((s) => (s.selected?.kind === "signal" ? s.selected.id : null));
  const { data: answers } = useAnswers();
  const { ask, told, busy } = useOffer();
  const [train, setTrain] = useState(ANY);
  const [seconds, setSeconds] = useState(15);
  const [towards, setTowards] = useState<"a" | "b">("b");
  const [first, setFirst] = useState<(Spot & { towards: "a" | "b" }) | null>(null);
  const trains = Object.entries(layout?.trains ?? {});
  const metric = layout?.brief?.units === "metric";
  const track = picked ? layout?.tracks?.[picked.track] : undefined;
  const named = (end: "a" | "b", of = track) => {
    const node = of ? layout?.nodes?.[of[end].node] : undefined;
    return node?.name ?? (node?.kind === "bumper" ? "the bumper" : `end ${end.toUpperCase()}`);
  };
  const which = trains.find(([, t]) => t.name === train)?.[0] ?? null;
  const here = picked ? { track: picked.track, at: picked.at, towards } : null;
  const words = (spot: Spot) =>
    `${answers?.tracks[spot.track] ? (layout?.tracks?.[spot.track]?.name ?? spot.track) : spot.track}, ${lengthText(spot.at, metric)} from end A`;
  return (
    <Fold title="Stops by themselves" open={Object.keys(layout?.braking ?? {}).length > 0}>
      <p className="text-[11.5px] text-mute">
        Digital track: one rail of a stretch is fed through a module that makes the wave unequal, and decoders told to
        do so slow down and stop. Click where the front of the train shall stand.
      </p>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Choice label="Made for" value={train} options={[ANY, ...trains.map(([, t]) => t.name)]} onChange={setTrain} />
        <Typed
          label="Waits"
          kind="text"
          shown={`${seconds} s`}
          onTake={async (v) => {
            const number = Number(String(v).replace(/s$/, "").replace(",", ".").trim());
            if (!(number >= 0 && number <= 3600)) return "Seconds, from 0 to 3600.";
            setSeconds(number);
            return null;
          }}
        />
        <div className="col-span-2 text-xs">
          {picked && track ? (
            <>
              Here: {bound(words(picked))}, going towards{" "}
              <button
                type="button"
                className="act"
                onClick={() => setTowards(towards === "a" ? "b" : "a")}
                title="Press to turn it round"
              >
                {named(towards)}
              </button>
            </>
          ) : (
            <span className="text-mute">No place is clicked yet.</span>
          )}
        </div>
        <button
          type="button"
          className="btn"
          disabled={!here || busy}
          onClick={() => here && void ask("stops", { kind: "stop", ...here, train: which, seconds })}
        >
          Stop here…
        </button>
        <button
          type="button"
          className="btn"
          disabled={!signal || busy}
          title={signal ? undefined : "Choose a signal on the plan first, in look Signals"}
          onClick={() => void ask("stops", { kind: "signal", signal, train: which })}
        >
          Hold at this signal…
        </button>
        {first ? (
          <>
            <p className="col-span-2 text-xs">
              One end: {bound(words(first))}, towards {named(first.towards, layout?.tracks?.[first.track])}.{" "}
              <button type="button" className="act" onClick={() => setFirst(null)}>
                Let it go
              </button>
            </p>
            <button
              type="button"
              className="btn col-span-2"
              disabled={!here || busy}
              onClick={() =>
                here &&
                void ask("stops", {
                  kind: "shuttle",
                  ...first,
                  other_track: here.track,
                  other_at: here.at,
                  other_towards: here.towards,
                  train: which,
                  seconds,
                })
              }
            >
              Shuttle between there and here…
            </button>
          </>
        ) : (
          <button type="button" className="btn col-span-2" disabled={!here} onClick={() => setFirst(here)}>
            One end of a shuttle is here
          </button>
        )}
      </div>
      {told}
    </Fold>
  );
}
