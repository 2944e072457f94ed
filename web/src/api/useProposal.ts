import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { allTaken } from "../parts/taking";
import { streamed } from "./stream";

/** What is asked for once every field has taken what was typed in it: the wishes as they stand then. */
const AS_IT_STANDS = Symbol("as it stands");

/** A proposal asked for by a button, with what is being worked out meanwhile. It is forgotten when what was wished changes. */
export function useProposal<Answer>(route: string, id: string, query: string) {
  const [asked, setAsked] = useState<string | null | typeof AS_IT_STANDS>(null);
  const [doing, setDoing] = useState("");
  if (asked === AS_IT_STANDS) setAsked(query);
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
    /** A number typed just before may still be on its way: it belongs to what is asked, and a wrong one asks nothing. */
    ask: () => void allTaken().then((all) => all && setAsked(AS_IT_STANDS)),
    forget: () => setAsked(null),
  };
}
