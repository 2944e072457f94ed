import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Preview } from "../../findings/Preview";
import { useBench } from "../../store/bench";

type Offer = Shape["ControlOffer"];

/** A change the server works out for a button: its reasons, its ink on the plan, and the preview before it is made. */
export function useOffer() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const [offer, setOffer] = useState<Offer | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    if (!offer) return;
    set({ ghostInks: offer.inks });
    return () => useBench.getState().set({ ghostInks: [] });
  }, [offer, set]);
  const ask = async (route: string, query: Record<string, string | number | null>) => {
    const sent = new URLSearchParams({ revision: String(revision) });
    for (const [key, value] of Object.entries(query)) if (value !== null && value !== "") sent.set(key, String(value));
    setBusy(true);
    setWhy(null);
    try {
      const got = await fetch(`/api/layouts/${id}/${route}?${sent}`);
      const body = (await got.json()) as Offer & { message?: string };
      if (got.ok) setOffer(body);
      else setWhy(body.message ?? "That cannot be done.");
    } catch {
      setWhy("The program did not answer; try again.");
    } finally {
      setBusy(false);
    }
  };
  const told = (
    <>
      {why ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          {why}
        </p>
      ) : null}
      {offer ? <Preview title={offer.words.join(" ")} mend={offer.change} onClose={() => setOffer(null)} /> : null}
    </>
  );
  return { ask, told, busy };
}
