import { queries } from "../api/cache";
import { answer, api, type Shape } from "../api/client";
import { useLayout } from "./layout";
import { useMe } from "./me";

/** Writes a note, or puts another in its place; answers why not, or null. */
export async function writeNote(note: Omit<Shape["NoteAsked"], "who">) {
  const id = useLayout.getState().state?.id;
  if (!id) return "No layout is open.";
  try {
    const got = await answer(
      api.POST("/api/layouts/{layout_id}/notes", {
        params: { path: { layout_id: id } },
        body: { ...note, who: useMe.getState().name },
      }),
    );
    queries.setQueryData(["notes", id], got);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

/** Keeps a decision with its reason, once what was decided is made. */
export const decide = (what: string, why: string) =>
  writeNote({
    id: crypto.randomUUID(),
    kind: "decision",
    about: "",
    text: `${what}. ${why}`.slice(0, 4000),
    photo: null,
  });
