import { QueryClient } from "@tanstack/react-query";
import { answer, api } from "./client";

/** What was asked already, kept by revision: the same question has the same answer. */
export const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: Number.POSITIVE_INFINITY, refetchOnWindowFocus: false } },
});

/** The key of everything the plan shows of a revision in a scene. */
export function answersKey(id: string, revision: number, scene: string | null) {
  return ["answers", id, revision, scene] as const;
}

/** How what is to settle of a revision is asked for: by whoever shows it, and as soon as a change is answered. */
export const findingsOf = (id: string, revision: number, scene: string | null) => ({
  queryKey: ["findings", id, revision, scene] as const,
  queryFn: () =>
    answer(
      api.GET("/api/layouts/{layout_id}/findings", {
        params: { path: { layout_id: id }, query: { revision, scene } },
      }),
    ),
});
