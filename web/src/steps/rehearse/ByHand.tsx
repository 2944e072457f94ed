import { useAnswers } from "../../api/queries";
import { useBench } from "../../store/bench";
import { type Move, type Trace, useEvening } from "../../store/evening";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";
import { Happenings } from "./Happenings";
import { act, run } from "./run";

export const DRIVES = [
  ["go", "Drive on", "g"],
  ["stop", "Stop", "s"],
  ["turn", "Turn round", "u"],
] as const;

/** What a person does at the moment shown: trains driven, turnouts thrown, power switched; the rest runs again. */
export function ByHand() {
  const ran = useEvening((s) => s.ran);
  const trace = useEvening((s) => s.trace);
  const planId = useEvening((s) => s.planId);
  const second = useEvening((s) => Math.floor(s.now));
  if (!ran || !trace || !planId) return null;
  const driven = Object.entries(ran.trains ?? {}).filter(([, t]) => t.by === "hand");
  const moves = ran.moves ?? [];
  return (
    <Fold title="By hand" open={driven.length > 0 || moves.length > 0}>
      {driven.length ? (
        <ul className="grid gap-1.5">
          {driven.map(([key]) => (
            <li key={key} className="flex flex-wrap items-center gap-1 text-xs">
              <button
                type="button"
                className="act mr-auto"
                onClick={() => useEvening.setState({ about: { kind: "train", id: key } })}
              >
                {nameOf(trace, key)}
              </button>
              {DRIVES.map(([does, words, letter]) => (
                <button
                  key={does}
                  type="button"
                  className="btn px-1.5 py-0.5 text-xs"
                  aria-label={`${words}: ${nameOf(trace, key)}`}
                  title={`${words}, key ${letter.toUpperCase()} while this train is asked about`}
                  onClick={() => void act({ does, seconds: second, train: key })}
                >
                  {words}
                </button>
              ))}
            </li>
          ))}
        </ul>
      ) : (
        <p className="text-mute text-xs">
          A train that runs by hand in The plan is driven here: on, stop, turn round. A turnout or a breaker chosen on
          the plan is thrown or switched.
        </p>
      )}
      <OfThing second={second} />
      <Happenings
        list={moves.map((m) => ({ seconds: m.seconds, words: wordsOf(trace, m), called: wordsOf(trace, m) }))}
        onTakeOut={(k) => void run(planId, { ...ran, moves: moves.filter((_, n) => n !== k) }, second, true)}
        testid="moves"
      />
    </Fold>
  );
}

/** A turnout or a breaker that is chosen on the plan. */
function OfThing({ second }: { second: number }) {
  const selected = useBench((s) => s.selected);
  const node = useLayout((s) => (selected?.kind === "node" ? s.state?.document.nodes?.[selected.id] : undefined));
  const { data } = useAnswers();
  const ways = (selected && data?.nodes[selected.id]?.ways) || [];
  const device = useEvening((s) =>
    selected?.kind === "device" ? s.trace?.opening.devices.find((d) => d.id === selected.id) : undefined,
  );
  if (node?.hand && ways.length)
    return (
      <p className="mt-2 flex flex-wrap items-center gap-1 text-xs">
        <span className="mr-auto">{node.name ?? selected?.id}</span>
        {ways.map((lies) => (
          <button
            key={lies}
            type="button"
            className="btn px-1.5 py-0.5 text-xs"
            onClick={() => void act({ does: "throw", seconds: second, node: selected?.id, lies })}
          >
            to {lies}
          </button>
        ))}
      </p>
    );
  if (device)
    return (
      <p className="mt-2 flex flex-wrap items-center gap-1 text-xs">
        <span className="mr-auto">{device.name}</span>
        {(["power off", "power on"] as const).map((does) => (
          <button
            key={does}
            type="button"
            className="btn px-1.5 py-0.5 text-xs"
            onClick={() => void act({ does, seconds: second, device: device.id })}
          >
            {does}
          </button>
        ))}
      </p>
    );
  return null;
}

const nameOf = (trace: Trace, key: string) => trace.opening.trains.find((t) => t.key === key)?.name ?? key;

function wordsOf(trace: Trace, move: Move): string {
  const drive = DRIVES.find(([does]) => does === move.does);
  if (drive && move.train) return `${nameOf(trace, move.train)}: ${drive[1].toLowerCase()}`;
  const nodes = useLayout.getState().state?.document.nodes;
  if (move.node) return `${nodes?.[move.node]?.name ?? move.node} to ${move.lies}`;
  return `${trace.opening.devices.find((d) => d.id === move.device)?.name ?? move.device}: ${move.does}`;
}
