import { replaceEqualDeep } from "@tanstack/react-query";
import { create } from "zustand";
import { answersKey, findingsOf, queries } from "../api/cache";
import { answer, api, type Operation, Refused, type Shape, type State } from "../api/client";
import type { Act } from "../plan/tools/arc";
import { type Thing, useBench } from "./bench";
import { NONE } from "./bench/chosen";
import { keep, kept } from "./bench/kept";
import { NO_GHOSTS } from "./bench/proposed";
import { patched, stateOf, valueAt } from "./document";
import { useTrainsOn } from "./trainsOn";

/** The one store of the document. Every change goes through `edit`: shown at once, saved, and undone if refused. */
type LayoutStore = {
  state: State | null;
  saving: number;
  savedAt: Date | null;
  /** Changes made at this window. */
  ours: ReadonlySet<number>;
  trouble: { message: string; retry?: () => void } | null;
  missing: boolean;
  /** Whether a layout is being fetched. */
  opening: boolean;
  open: (id: string | null) => Promise<void>;
  take: (state: State) => void;
  /** Makes a change. Answers null, or why not in words; with `beside` a refusal is left to the field to show. */
  edit: (summary: string, patch: Operation[], beside?: boolean) => Promise<string | null>;
  /** Has a change worked out that is about to be made. */
  foresee: (patch: Operation[]) => void;
  /** Does an act of drawing on the newest revision. Answers what it made, or why not in words. */
  draw: (act: Act) => Promise<{ made: Thing | null; why: string | null }>;
  /** Takes what a change answered elsewhere. */
  settle: (got: Shape["Changed"]) => void;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  refresh: () => Promise<void>;
  forgive: () => void;
};

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

const put = (path: "undo" | "redo", id: string, revision: number) =>
  answer(
    api.POST(`/api/layouts/{layout_id}/${path}`, {
      params: {
        path: { layout_id: id },
        query: { scene: useBench.getState().scene, holds: revision },
        header: { "If-Match": `"${revision}"` },
      },
    }),
  );

let queue: Promise<unknown> = Promise.resolve();

export const useLayout = create<LayoutStore>((set, get) => {
  const settle = (got: Shape["Changed"], held: State | null) => {
    const scene = useBench.getState().scene;
    const before = get().state;
    // What did not change keeps its identity, so that only what did is drawn again.
    const old = before ? queries.getQueryData(answersKey(before.id, before.revision, scene)) : undefined;
    const state = stateOf(got.state, held);
    queries.setQueryData(answersKey(state.id, state.revision, scene), replaceEqualDeep(old, got.answers));
    // The server works them out while the new ink is drawn.
    void queries.prefetchQuery(findingsOf(state.id, state.revision, scene));
    const document = replaceEqualDeep(before?.document, state.document);
    set((s) => ({
      state: { ...state, document },
      ours: new Set(s.ours).add(state.revision),
      savedAt: new Date(),
      trouble: null,
    }));
  };

  const save = async (summary: string, patch: Operation[], beside: boolean, again: boolean): Promise<string | null> => {
    const base = get().state;
    if (!base) return "No layout is open.";
    // A list chosen from by letters says so at each of them: what stands there already is no change, nor a step to undo.
    if (patch.every((o) => o.op === "replace" && same(valueAt(base.document, o.path), o.value))) return null;
    const asked = answer(
      api.PATCH("/api/layouts/{layout_id}", {
        params: {
          path: { layout_id: base.id },
          query: { scene: useBench.getState().scene, holds: base.revision },
          header: { "If-Match": `"${base.revision}"` },
        },
        body: { summary, patch },
      }),
    );
    asked.catch(() => undefined);
    // It is on its way first: the server works while what is known already is drawn.
    await new Promise((go) => setTimeout(go));
    set((s) => ({ saving: s.saving + 1 }));
    try {
      set({ state: { ...base, document: patched(base.document, patch) } });
      settle(await asked, base);
      return null;
    } catch (error) {
      set({ state: base });
      if (!(error instanceof Refused)) throw error;
      const newer = error.trouble.current;
      if (error.status === 409 && newer) {
        const untouched = patch.every((o) => same(valueAt(base.document, o.path), valueAt(newer.document, o.path)));
        set({ state: newer });
        if (untouched && again) return save(summary, patch, beside, false);
        set({
          trouble: {
            message: `Somebody else changed the same thing meanwhile (${newer.summary}). Your change was not made: ${summary}.`,
            retry: () => void get().edit(summary, patch),
          },
        });
        return "Somebody else changed this meanwhile; their change is shown.";
      }
      if (beside && error.status === 422) return error.message;
      const retry = error.status === 0 ? { retry: () => void get().edit(summary, patch) } : {};
      set({ trouble: { message: error.message, ...retry } });
      return error.message;
    } finally {
      set((s) => ({ saving: s.saving - 1 }));
    }
  };

  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = queue.then(work, work);
    queue = next.catch(() => undefined);
    return next;
  };

  const back = (way: "undo" | "redo") =>
    inTurn(async () => {
      const base = get().state;
      if (!base || !(way === "undo" ? base.can_undo : base.can_redo)) return;
      set((s) => ({ saving: s.saving + 1 }));
      try {
        settle(await put(way, base.id, base.revision), base);
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (error.trouble.current) set({ state: error.trouble.current });
        set({ trouble: { message: error.message } });
      } finally {
        set((s) => ({ saving: s.saving - 1 }));
      }
    });

  return {
    state: null,
    saving: 0,
    savedAt: null,
    ours: new Set(),
    trouble: null,
    missing: false,
    opening: false,
    open: async (id) => {
      set({ opening: true });
      try {
        const all = await answer(api.GET("/api/layouts"));
        const wanted = all.find((l) => l.id === (id ?? kept("layout"))) ?? (id ? null : all[0]);
        if (wanted === undefined) return set({ missing: true, state: null });
        if (wanted === null) {
          useBench.getState().set({ page: "layouts" });
          return set({
            trouble: { message: `There is no layout ${id} in this club file now.` },
          });
        }
        const state = await answer(api.GET("/api/layouts/{layout_id}", { params: { path: { layout_id: wanted.id } } }));
        get().take(state);
      } catch (error) {
        if (error instanceof Refused && error.status === 401) {
          const here = `${location.pathname}${location.search}${location.hash}`;
          return location.assign(`/enter?to=${encodeURIComponent(here)}`);
        }
        set({ trouble: { message: (error as Error).message, retry: () => void get().open(id) } });
      } finally {
        set({ opening: false });
      }
    },
    take: (state) => {
      const bench = useBench.getState();
      const scenes = Object.keys(state.document.scenes ?? {});
      if (!bench.scene || !scenes.includes(bench.scene)) bench.set({ scene: scenes[0] ?? null });
      bench.set({ ...NONE, ...NO_GHOSTS, measure: [], placing: null, paint: null, note: null });
      useTrainsOn.getState().turnTo(state.id);
      keep("layout", state.id);
      if (get().state?.id !== state.id) set({ ours: new Set() });
      document.title = `${state.document.name} · Jolly Copper`;
      set({
        state,
        missing: false,
        savedAt: new Date(state.made),
        trouble: state.mended ? { message: state.mended } : null,
      });
    },
    foresee: (patch) => {
      const base = get().state;
      if (!base || get().saving) return;
      const params = {
        path: { layout_id: base.id },
        query: { scene: useBench.getState().scene },
        header: { "If-Match": `"${base.revision}"` },
      };
      // Whether it came to anything is seen when the change is made.
      void api.POST("/api/layouts/{layout_id}/foresee", { params, body: { patch } }).catch(() => undefined);
    },
    edit: (summary, patch, beside = false) => inTurn(() => save(summary, patch, beside, true)),
    settle: (got) => settle(got, get().state),
    draw: (act) =>
      inTurn(async () => {
        const base = get().state;
        if (!base) return { made: null, why: "No layout is open." };
        set((s) => ({ saving: s.saving + 1 }));
        try {
          const got = await answer(
            api.POST("/api/layouts/{layout_id}/draw", {
              params: {
                path: { layout_id: base.id },
                query: { scene: useBench.getState().scene, holds: base.revision },
              },
              body: { act },
            }),
          );
          settle(got, base);
          useBench.getState().set({ note: got.note ?? null });
          return { made: (got.made as Thing | null | undefined) ?? null, why: null };
        } catch (error) {
          if (!(error instanceof Refused)) throw error;
          const retry = error.status === 0 ? { retry: () => void get().draw(act) } : {};
          if (error.status === 422) useBench.getState().set({ note: error.message });
          else set({ trouble: { message: error.message, ...retry } });
          return { made: null, why: error.message };
        } finally {
          set((s) => ({ saving: s.saving - 1 }));
        }
      }),
    undo: () => back("undo"),
    redo: () => back("redo"),
    refresh: () =>
      inTurn(async () => {
        const base = get().state;
        if (!base) return;
        try {
          const all = await answer(api.GET("/api/layouts"));
          const newest = all.find((l) => l.id === base.id)?.revision;
          if (newest === undefined || newest === base.revision) return;
          const state = await answer(api.GET("/api/layouts/{layout_id}", { params: { path: { layout_id: base.id } } }));
          set({ state, savedAt: new Date(state.made) });
        } catch {
          // The program may be away for a moment; the next look finds it.
        }
      }),
    forgive: () => set({ trouble: null }),
  };
});
