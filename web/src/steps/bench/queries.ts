import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Shape } from "../../api/client";
import { useWhere } from "../../api/queries";

export type Test = Shape["TestShape"];
export type Bench = Shape["BenchShape"];
export type Standing = Shape["HuntStanding"];
export type Act = Shape["ActShape"];
type Sent = {
  id: string;
  test: string;
  shown: string;
  meter?: string;
  amps?: number | null;
  before?: string;
  note?: string;
};

/** Every test with what it foretells and where it stands; since: tell which were touched after that change. */
export function useTests(since: number | null = null) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["bench", id, revision, scene, since],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/bench", {
          params: { path: { layout_id: id }, query: { scene, ...(since ? { since } : {}) } },
        }),
      ),
  });
}

export function useLearned() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["learned", id, revision, scene],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(api.GET("/api/layouts/{layout_id}/learned", { params: { path: { layout_id: id }, query: { scene } } })),
  });
}

export function useReadings() {
  const { id, ready } = useWhere();
  return useQuery({
    queryKey: ["readings", id],
    enabled: ready,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/readings", { params: { path: { layout_id: id } } })),
  });
}

export function useOffer(asked: boolean) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["offer", id, revision, scene],
    enabled: ready && asked,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/learned/offer", { params: { path: { layout_id: id }, query: { scene } } }),
      ),
  });
}

/** Keeps readings; answers the verdict of each, or why it was not taken. */
export function useSendReading() {
  const { id, scene } = useWhere();
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (reading: Sent) => {
      const taken = await answer(
        api.POST("/api/layouts/{layout_id}/readings", {
          params: { path: { layout_id: id }, query: { scene } },
          body: { readings: [{ ...reading, done: new Date().toISOString() }] },
        }),
      );
      const refused = taken.refused[0];
      if (refused) throw new Error(refused.why);
      return taken.readings[0];
    },
    onSuccess: () => {
      for (const key of ["bench", "learned", "readings", "offer", "work-order"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}

export function useKeepMeter() {
  const { id } = useWhere();
  const client = useQueryClient();
  return useMutation({
    mutationFn: (meter: Shape["MeterTyped"]) =>
      answer(api.POST("/api/layouts/{layout_id}/meters", { params: { path: { layout_id: id } }, body: meter })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["bench"] }),
  });
}

export function useHunts() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["hunts", id, revision, scene],
    enabled: ready,
    queryFn: () =>
      answer(api.GET("/api/layouts/{layout_id}/hunts", { params: { path: { layout_id: id }, query: { scene } } })),
  });
}

export function useHunt(hunt: string | null) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["hunt", id, hunt, revision, scene],
    enabled: ready && hunt !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/hunts/{hunt_id}", {
          params: { path: { layout_id: id, hunt_id: hunt ?? "" }, query: { scene } },
        }),
      ),
  });
}

/** Begins, answers and ends hunts; each answers where the hunt then stands. */
export function useHunting() {
  const { id, revision, scene } = useWhere();
  const client = useQueryClient();
  const path = (hunt: string) => ({ params: { path: { layout_id: id, hunt_id: hunt }, query: { scene } } });
  const keep = (hunt: string, told: Shape["HuntShape"]) => {
    client.setQueryData(["hunt", id, hunt, revision, scene], told);
    void client.invalidateQueries({ queryKey: ["hunts"] });
    return told;
  };
  return {
    begin: async (hunt: string, symptom: Shape["Symptom"]) =>
      keep(
        hunt,
        await answer(
          api.POST("/api/layouts/{layout_id}/hunts", {
            params: { path: { layout_id: id }, query: { scene } },
            body: { id: hunt, symptom },
          }),
        ),
      ),
    say: async (hunt: string, body: Shape["Said"]) =>
      keep(hunt, await answer(api.POST("/api/layouts/{layout_id}/hunts/{hunt_id}/answers", { ...path(hunt), body }))),
    end: async (hunt: string, body: Shape["Ended"]) =>
      keep(hunt, await answer(api.POST("/api/layouts/{layout_id}/hunts/{hunt_id}/end", { ...path(hunt), body }))),
  };
}

export function useDrill(seed: number | null, hardness: "easy" | "fair" | "hard", tried: string[]) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["drill", id, revision, scene, seed, hardness, tried],
    enabled: ready && seed !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.POST("/api/layouts/{layout_id}/drill", {
          params: { path: { layout_id: id }, query: { scene } },
          body: { seed: seed ?? 0, hardness, tried },
        }),
      ),
  });
}
