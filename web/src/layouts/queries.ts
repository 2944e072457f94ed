import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

export const useCard = (id: string, revision: number) =>
  useQuery({
    queryKey: ["card", id, revision],
    queryFn: () =>
      answer(api.GET("/api/layouts/{layout_id}/card", { params: { path: { layout_id: id }, query: { revision } } })),
  });

export const useDeleted = () =>
  useQuery({ queryKey: ["deleted"], staleTime: 0, queryFn: () => answer(api.GET("/api/deleted")) });

export const useVersions = (id: string) =>
  useQuery({
    queryKey: ["versions", id],
    staleTime: 0,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/versions", { params: { path: { layout_id: id } } })),
  });

const PAGE = 100;
/** The changes of any layout, newest first, a page at a time. */
export const useChanges = (id: string) =>
  useInfiniteQuery({
    queryKey: ["changes", id],
    staleTime: 0,
    placeholderData: keepPreviousData,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/layouts/{layout_id}/history", {
          params: { path: { layout_id: id }, query: { before: pageParam, most: PAGE } },
        }),
      ),
    getNextPageParam: (last) => (last.length === PAGE ? last.at(-1)?.number : undefined),
  });

/** A state of a layout: its id and the number of a change, null for the newest. */
export type At = { id: string; number: number | null };

export const useComparison = (from: At, to: At) =>
  useQuery({
    queryKey: ["compare", from, to],
    staleTime: 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/compare", {
          params: {
            path: { layout_id: from.id },
            query: { other: to.id, revision: from.number ?? undefined, other_revision: to.number ?? undefined },
          },
        }),
      ),
  });
