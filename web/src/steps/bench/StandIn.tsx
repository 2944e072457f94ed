import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

type Held = { track: string; at: number; side: "left" | "right" };
type Props = { kinds: Shape["KindShape"][] };

/** Two probes and a knob: what a meter would show on the railroad as it is drawn. */
export function StandIn({ kinds }: Props) {
  const { id, revision, scene } = useWhere();
  const picked = useBench((s) => s.picked);
  const tracks = useLayout((s) => s.state?.document.tracks);
  const [setting, setSetting] = useState("ac averaging");
  const [red, setRed] = useState<Held | null>(null);
  const [black, setBlack] = useState<Held | null>(null);
  const ready = red !== null && black !== null;
  const { data, error } = useQuery({
    queryKey: ["stand-in", id, revision, scene, setting, red, black],
    enabled: ready,
    retry: false,
    queryFn: () =>
      answer(
        api.POST("/api/layouts/{layout_id}/stand-in", {
          params: { path: { layout_id: id }, query: { scene } },
          body: { red: red as Held, black: black as Held, setting: setting as never },
        }),
      ),
  });
  const hold = (side: Held["side"], put: (held: Held) => void) => picked && put({ ...picked, side });
  const words = (held: Held | null) =>
    held ? `${tracks?.[held.track]?.name ?? held.track}, ${held.side} rail` : "not held anywhere";
  const probes = [
    ["Red", red, setRed],
    ["Black", black, setBlack],
  ] as const;
  return (
    <details className="mt-4 text-xs" data-testid="stand-in">
      <summary className="cursor-pointer text-link">A stand-in meter</summary>
      <p className="mt-1 text-mute">Click a place on the plan, then say which lead is held to which rail there.</p>
      <label className="mt-1.5 block">
        <span className="text-mute">Knob</span>
        <select className="field py-0.5" value={setting} onChange={(e) => setSetting(e.target.value)}>
          {kinds
            .filter((k) => k.unit !== "A")
            .map((k) => (
              <option key={k.setting} value={k.setting}>
                {k.name}
              </option>
            ))}
        </select>
      </label>
      {probes.map(([name, held, put]) => (
        <div key={name} className="mt-1.5 flex items-center gap-2">
          <span className="w-10 font-semibold">{name}</span>
          <span className="min-w-0 flex-1 text-mute">{words(held)}</span>
          {(["left", "right"] as const).map((side) => (
            <button
              key={side}
              type="button"
              className="btn px-2 py-0.5"
              disabled={!picked}
              aria-label={`${name} lead to the ${side} rail`}
              onClick={() => hold(side, put)}
            >
              {side}
            </button>
          ))}
        </div>
      ))}
      <p className="figure mt-2 rounded-md bg-strong px-3 py-2 text-center text-[20px] text-onstrong" role="status">
        {ready && data ? bound(data.text) : "– – –"}
      </p>
      {data && ready ? <p className="mt-1 text-mute">{bound(data.why)}</p> : null}
      {error ? (
        <p role="alert" className="text-oxide">
          {(error as Error).message}
        </p>
      ) : null}
    </details>
  );
}
