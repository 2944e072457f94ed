import { queries } from "../api/cache";
import { answer, api, Refused } from "../api/client";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";

/** What can be done to the layouts of the club file. Each answers null, or why not in words. */
const told = async (work: () => Promise<unknown>): Promise<string | null> => {
  try {
    await work();
    return null;
  } catch (error) {
    return (error as Error).message;
  } finally {
    void queries.invalidateQueries({ queryKey: ["layouts"] });
    void queries.invalidateQueries({ queryKey: ["deleted"] });
    void queries.invalidateQueries({ queryKey: ["versions"] });
    void queries.invalidateQueries({ queryKey: ["card"] });
  }
};
const refuse = async (asked: Promise<{ error?: unknown; response: Response }>) => {
  const { error, response } = await asked;
  if (!response.ok)
    throw new Refused(response.status, (error as { message: string }) ?? { message: "That did not work." });
};
const at = (id: string) => ({ params: { path: { layout_id: id } } });

export const openLayout = async (id: string) => {
  await useLayout.getState().open(id);
  useBench.getState().set({ page: "bench" });
};
export const copyLayout = (id: string, name: string, revision?: number) =>
  told(() =>
    answer(
      api.POST("/api/layouts/{layout_id}/copy", {
        params: { path: { layout_id: id }, query: { revision } },
        body: { name },
      }),
    ),
  );
export const renameLayout = (id: string, name: string) =>
  told(async () => {
    await answer(api.POST("/api/layouts/{layout_id}/rename", { ...at(id), body: { name } }));
    await useLayout.getState().refresh();
  });
export const archiveLayout = (id: string, archived: boolean) =>
  told(() => refuse(api.PUT("/api/layouts/{layout_id}/archived", { ...at(id), body: { archived } })));
export const deleteLayout = (id: string) =>
  told(async () => {
    await refuse(api.DELETE("/api/layouts/{layout_id}", at(id)));
    if (useLayout.getState().state?.id !== id) return;
    useLayout.setState({ state: null });
    await useLayout.getState().open(null);
  });
export const putBack = (id: string) => told(() => answer(api.POST("/api/layouts/{layout_id}/put-back", at(id))));
export const nameVersion = (id: string, number: number, name: string, note: string) =>
  told(() =>
    answer(
      api.PUT("/api/layouts/{layout_id}/versions/{number}", {
        params: { path: { layout_id: id, number } },
        body: { name, note },
      }),
    ),
  );
export const unnameVersion = (id: string, number: number) =>
  told(() =>
    refuse(api.DELETE("/api/layouts/{layout_id}/versions/{number}", { params: { path: { layout_id: id, number } } })),
  );
