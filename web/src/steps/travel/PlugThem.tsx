import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { Fold } from "../track/Fold";

/** Connectors of kinds the club owns chosen for every joint, as one change. */
export function PlugThem() {
  const { id, revision } = useWhere();
  const [asked, setAsked] = useState(-1);
  const [making, setMaking] = useState(false);
  const { data, error, isFetching } = useQuery({
    queryKey: ["couplings-offer", id, revision],
    enabled: asked === revision,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/couplings-offer", {
          params: { path: { layout_id: id }, query: { revision } },
        }),
      ),
  });
  const shown = asked === revision ? data : undefined;
  return (
    <Fold title="Plug the joints">
      <button type="button" className="btn-main" disabled={isFetching} onClick={() => setAsked(revision)}>
        {isFetching ? "Choosing…" : "Plug the joints"}
      </button>
      <p className="mt-1.5 text-[11.5px] text-mute">
        The fewest connectors of the kinds you listed that hold the gauges and amps. Sockets on the fed side; no two
        that differ in volts can be mated.
      </p>
      {error ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          {(error as Error).message}
        </p>
      ) : null}
      {shown ? (
        <div className="mt-2 text-[12px]" data-testid="couplings-offer">
          {shown.words.map((w) => (
            <p key={w}>{bound(w)}</p>
          ))}
          {shown.left.length ? (
            <>
              <h3 className="mt-1.5 font-bold">Held by no connector</h3>
              <ul className="list-disc pl-4 text-[11.5px]">
                {shown.left.map((w) => (
                  <li key={w}>{bound(w)}</li>
                ))}
              </ul>
            </>
          ) : null}
          {shown.change ? (
            <button type="button" className="btn-main mt-2 w-full" onClick={() => setMaking(true)}>
              Make it…
            </button>
          ) : null}
        </div>
      ) : null}
      {shown?.change && making ? (
        <Preview
          title={shown.words.join(" ")}
          decides={shown.words.join(" ")}
          mend={shown.change}
          onClose={() => setMaking(false)}
          onMade={() => setAsked(-1)}
        />
      ) : null}
    </Fold>
  );
}
