import { QueryClient } from "@tanstack/react-query";

/** What was asked already, kept by revision: the same question has the same answer. */
export const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: Number.POSITIVE_INFINITY, refetchOnWindowFocus: false } },
});

/** The key of everything the plan shows of a revision in a scene. */
export function answersKey(id: string, revision: number, scene: string | null) {
  return ["answers", id, revision, scene] as const;
}
