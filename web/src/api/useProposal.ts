import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { streamed } from "./stream";

/** A proposal asked for by a button, with what is being worked out meanwhile. It is forgotten when what was wished changes. */
export function useProposal<Answer>(route: string, id: string, query: string) {
  const [asked, setAsked] = useState<string | null>(null);
  const [doing, setDoing] = useState("");
  const { data, error, isFetching } = useQuery({
    queryKey: [route, id, query],
    enabled: asked === query,
    retry: false,
    queryFn: () =>
      streamed<Answer, { doing?: string }>(`/api/layouts/${id}/${route}?${query}`, (s) => setDoing(s.doing ?? "")),
  });
  const mine = asked === query;
  return {
    shown: mine ? data : undefined,
    error: mine && error ? (error as Error).message : null,
    busy: mine && isFetching,
    doing,
    ask: () => setAsked(query),
    forget: () => setAsked(null),
  };
}
