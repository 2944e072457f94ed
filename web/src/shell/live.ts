import { useEffect } from "react";
import { queries } from "../api/cache";
import { useLayout } from "../store/layout";
import { useMe } from "../store/me";

const NEWS_MS = 8000;
/** What is asked anew once another window, the phone or another program kept rows beside the layout. */
const HOLD: Record<string, string[]> = {
  work: ["under", "bench", "learned"],
  readings: ["bench", "learned", "readings", "offer", "work-order", "search"],
  hunts: ["hunts", "hunt", "bench", "search"],
  rehearsals: ["rehearsals"],
  shows: ["shows", "search"],
  notes: ["notes", "search"],
};
type Change = { revision: number; who: string; summary: string };

/** Listens for what other windows change, while this one is looked at: a hidden window holds no connection. */
export function useLive() {
  const id = useLayout((s) => s.state?.id);
  const name = useMe((s) => s.name);
  useEffect(() => {
    if (!id) return;
    let source: EventSource | null = null;
    let fades: ReturnType<typeof setTimeout> | undefined;
    const { refresh } = useLayout.getState();
    const change = async (event: MessageEvent<string>) => {
      const told = JSON.parse(event.data) as Change;
      await refresh();
      const mine = useLayout.getState().ours.has(told.revision);
      if (mine) return;
      useMe.getState().set({ news: `${told.who || "Somebody"}: ${told.summary}` });
      clearTimeout(fades);
      fades = setTimeout(() => useMe.getState().set({ news: null }), NEWS_MS);
    };
    const listen = () => {
      source?.close();
      source = null;
      if (document.visibilityState !== "visible") return useMe.getState().set({ others: [] });
      source = new EventSource(`/api/live?${new URLSearchParams({ layout: id, name })}`);
      source.addEventListener("change", (event) => void change(event as MessageEvent<string>));
      source.addEventListener("kept", (event) => {
        const kinds = JSON.parse((event as MessageEvent<string>).data) as string[];
        for (const key of kinds.flatMap((k) => HOLD[k] ?? [])) void queries.invalidateQueries({ queryKey: [key] });
      });
      source.addEventListener("here", (event) => useMe.getState().set({ others: JSON.parse(event.data) as string[] }));
      // What was changed while nothing was heard.
      source.addEventListener("open", () => void refresh());
      source.addEventListener("error", () => useMe.getState().set({ others: [] }));
    };
    listen();
    document.addEventListener("visibilitychange", listen);
    return () => {
      document.removeEventListener("visibilitychange", listen);
      clearTimeout(fades);
      source?.close();
    };
  }, [id, name]);
}
