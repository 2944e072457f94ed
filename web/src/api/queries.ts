import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { useTrainsOn } from "../store/trainsOn";
import { answersKey, findingsOf } from "./cache";
import { answer, api } from "./client";

export function useWhere() {
  const id = useLayout((s) => s.state?.id);
  const revision = useLayout((s) => s.state?.revision);
  const scene = useBench((s) => s.scene);
  return { id: id ?? "", revision: revision ?? 0, scene, ready: id !== undefined };
}

/** Everything the plan shows of the newest revision in the chosen scene. */
export function useAnswers() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: answersKey(id, revision, scene),
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/answers", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
}

/** What is to settle. The old list stays in view until the new one is there. */
export function useFindings() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    ...findingsOf(id, revision, scene),
    enabled: ready,
    placeholderData: keepPreviousData,
  });
}

/** How every step stands, and the one to go on with. Asked after the findings, on which it rests. */
export function useWorkOrder() {
  const { id, revision, scene, ready } = useWhere();
  const findings = useFindings();
  return useQuery({
    queryKey: ["work-order", id, revision, scene],
    enabled: ready && findings.isSuccess && !findings.isPlaceholderData,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/work-order", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
}

/** The picked point, or the worst one while nothing is picked. */
export function usePickedPlace() {
  const picked = useBench((s) => s.picked);
  const look = useBench((s) => s.look);
  const { data } = useAnswers();
  if (picked) return picked;
  const spot = look === "coin" ? data?.weakest : data?.worst;
  return spot ? { track: spot.track, at: spot.at } : null;
}

export function usePoint() {
  const { id, revision, scene, ready } = useWhere();
  const place = usePickedPlace();
  return useQuery({
    queryKey: ["point", id, revision, scene, place?.track, place?.at],
    enabled: ready && place !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/point", {
          params: {
            path: { layout_id: id },
            query: { revision, scene, track: place?.track ?? "", at: place?.at ?? 0 },
          },
        }),
      ),
  });
}

/** After a change made here so long nothing else is done before what might be is worked out, ms. */
const QUIET = 1000;
const quiet = (signal: AbortSignal) =>
  new Promise<void>((go, stop) => {
    const later = setTimeout(go, QUIET);
    signal.addEventListener("abort", () => {
      clearTimeout(later);
      stop(signal.reason);
    });
  });

export function useWhatIf() {
  const { id, revision, scene, ready } = useWhere();
  const place = usePickedPlace();
  // First the point itself, then what might be: the second must not slow the first.
  const point = usePoint();
  const answered = point.data !== undefined && !point.isPlaceholderData;
  return useQuery({
    queryKey: ["what-if", id, revision, scene, place?.track, place?.at],
    enabled: ready && place !== null && answered,
    retry: false,
    queryFn: async ({ signal }) => {
      // Somebody who changes one thing after the other is not kept waiting by guesses about each.
      if (useLayout.getState().ours.has(revision)) await quiet(signal);
      return answer(
        api.GET("/api/layouts/{layout_id}/what-if", {
          params: {
            path: { layout_id: id },
            query: { revision, scene, track: place?.track ?? "", at: place?.at ?? 0 },
          },
        }),
      );
    },
  });
}

export function useWires() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["wires", id, revision, scene],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/wires", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** What the rails tell: phase as fed, sections, where trains come back on themselves. */
export function useRails(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["rails", id, revision, scene],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/rails", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** What every train draws, and what the scene asks of every source and breaker. */
export function useFleet() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["fleet", id, revision, scene],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/fleet", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** The power tree with amps, trips and what goes dark, for the one-line diagram. */
export function useZones(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["zones", id, revision, scene],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/zones", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** Volts at every accessory. */
export function useAccessories() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["accessories", id, revision, scene],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/accessories", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
}

/** Which section is where, what looks at it and what that sees. */
export function useDetection(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["detection", id, revision, scene],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/detection", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
}

/** The signals with their ways, outputs and boards; what they show just now is the moment's. */
export function useSignals(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["signals", id, revision, scene],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/signals", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
}

/** What the trains put on the plan light, and what every head shows for them. */
export function useMoment(wanted = true) {
  const { id, revision, scene, ready } = useWhere();
  const trains = useTrainsOn((s) => s.trains);
  const { data } = useQuery({
    queryKey: ["moment", id, revision, trains],
    enabled: ready && wanted,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 20_000,
    queryFn: () =>
      answer(
        api.POST("/api/layouts/{layout_id}/moment", {
          params: { path: { layout_id: id }, query: { revision, scene } },
          body: { trains, promised: useTrainsOn.getState().promised },
        }),
      ).then((got) => {
        // Whose signal cleared first is remembered, also of trains that nobody drives.
        useTrainsOn.setState({ promised: got.promised });
        return got;
      }),
  });
  return data;
}

/** The choices of detection there are, with their reasons. */
export function useDetectingSchools() {
  return useQuery({ queryKey: ["detecting-schools"], queryFn: () => answer(api.GET("/api/detecting-schools")) });
}

export function useSignallingSchools() {
  return useQuery({ queryKey: ["signalling-schools"], queryFn: () => answer(api.GET("/api/signalling-schools")) });
}

export function useHouseRules() {
  return useQuery({ queryKey: ["house-rules"], queryFn: () => answer(api.GET("/api/house-rules")) });
}

/** What the wire book holds, of the newest revision. */
export function useBook() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["book", id, revision, scene],
    enabled: ready,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/book", { params: { path: { layout_id: id }, query: { revision, scene } } }),
      ),
  });
}

/** Every board's tasks with what helpers did; asked again while it is looked at, since phones send at any time. */
export function useUnderBoards() {
  const { id, revision, scene, ready } = useWhere();
  return useQuery({
    queryKey: ["under", id, revision, scene],
    enabled: ready,
    refetchInterval: 8000,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(api.GET("/api/layouts/{layout_id}/under", { params: { path: { layout_id: id }, query: { scene } } })),
  });
}

const HISTORY_PAGE = 200;

/** The changes of the layout, newest first, a page at a time. */
export function useHistory() {
  const { id, revision, ready } = useWhere();
  return useInfiniteQuery({
    queryKey: ["history", id, revision],
    enabled: ready,
    placeholderData: keepPreviousData,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/layouts/{layout_id}/history", {
          params: { path: { layout_id: id }, query: { before: pageParam, most: HISTORY_PAGE } },
        }),
      ),
    getNextPageParam: (last) => (last.length === HISTORY_PAGE ? last.at(-1)?.number : undefined),
  });
}

/** The schools of wiring there are to choose from, with their reasons. */
export function useWiringSchools() {
  return useQuery({ queryKey: ["wiring-schools"], queryFn: () => answer(api.GET("/api/wiring-schools")) });
}

/** What accessories usually draw, by kind. */
export function useUsualLoads() {
  return useQuery({ queryKey: ["usual-loads"], queryFn: () => answer(api.GET("/api/usual-loads")) });
}

export function useGauges() {
  return useQuery({ queryKey: ["gauges"], queryFn: () => answer(api.GET("/api/gauges")) });
}

export function useLayouts() {
  const revision = useLayout((s) => s.state?.revision);
  return useQuery({
    queryKey: ["layouts", revision],
    // Another window may have added one.
    staleTime: 0,
    placeholderData: keepPreviousData,
    queryFn: () => answer(api.GET("/api/layouts")),
  });
}
