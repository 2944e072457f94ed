import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useDetection } from "../../api/queries";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { Whole } from "../../parts/Whole";
import { useLayout } from "../../store/layout";

/** Resistor axles: what one draws, what it gives off, and how many a train needs so that no car vanishes. */
export function Axles() {
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const { data: detection } = useDetection();
  const kept = layout?.brief?.detecting?.axle_ohms ?? 10000;
  const board = Object.values(layout?.detectors ?? {})[0];
  const [volts, setVolts] = useState(layout?.brief?.track_volts ?? 14.4);
  const [threshold, setThreshold] = useState(board?.threshold ?? 0.005);
  const [cars, setCars] = useState(10);
  const { data, error } = useQuery({
    queryKey: ["axle", volts, kept, threshold, cars],
    retry: false,
    queryFn: () => answer(api.GET("/api/sums/axle", { params: { query: { volts, ohms: kept, threshold, cars } } })),
  });
  return (
    <div className="grid gap-4 p-3 text-[12px] md:grid-cols-[300px_minmax(0,1fr)]" data-testid="axles">
      <div className="grid grid-cols-2 content-start gap-2">
        <Typed
          label="Track volts"
          kind="volts"
          shown={`${volts} V`}
          onTake={async (v) => {
            if (typeof v !== "number") return "Volts, such as 14.4 V.";
            setVolts(v);
            return null;
          }}
        />
        <Typed
          label="Resistor on an axle"
          kind="ohms"
          shown={kept >= 1000 ? `${+(kept / 1000).toFixed(2)} kΩ` : `${kept} Ω`}
          onTake={(v, t) =>
            edit(`Axles of ${t}`, [{ op: "replace", path: "/brief/detecting/axle_ohms", value: v }], true)
          }
        />
        <Typed
          label="Detector answers from"
          kind="current"
          shown={`${+(threshold * 1000).toFixed(2)} mA`}
          onTake={async (v) => {
            if (typeof v !== "number") return "A current, such as 5 mA.";
            setThreshold(v);
            return null;
          }}
        />
        <Whole label="Cars in the train" value={cars} least={1} most={200} onTake={setCars} />
      </div>
      <div>
        {error ? (
          <p role="alert" className="text-oxide">
            {(error as Error).message}
          </p>
        ) : null}
        {data ? (
          <dl className="grid w-fit grid-cols-[auto_auto] gap-x-4 gap-y-0.5">
            <dt className="text-mute">One axle draws</dt>
            <dd className="figure">{bound(data.amps_text)}</dd>
            <dt className="text-mute">gives off</dt>
            <dd className="figure">{bound(data.watts_text)}</dd>
            <dt className="text-mute">buy one of</dt>
            <dd className="figure">{bound(data.buy_text)}</dd>
            <dt className="text-mute">Axles so that a car shows by itself</dt>
            <dd className="figure">{data.each_car}</dd>
            <dt className="text-mute">in the whole train</dt>
            <dd className="figure">{data.train}</dd>
          </dl>
        ) : null}
        <p className="mt-1.5 max-w-xl">{bound(data?.words)}</p>
        {detection?.vanishing.length ? (
          <>
            <h3 className="mt-3 font-bold text-xs">Trains of this layout that vanish in part</h3>
            <ul className="list-disc pl-4 text-mute text-xs">
              {detection.vanishing.map((v) => (
                <li key={v.train}>{bound(v.words)}</li>
              ))}
            </ul>
          </>
        ) : null}
      </div>
    </div>
  );
}
