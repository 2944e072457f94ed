import { useState } from "react";
import { answer, api, Refused, type State, send, type Trouble } from "../api/client";
import { useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { FilePick } from "./FilePick";

/** Opens a layout file, or an archive with all that was kept of one. A file that cannot be read says where and why, and
 * changes nothing. */
export function TakeIn() {
  const take = useLayout((s) => s.take);
  const [trouble, setTrouble] = useState<Trouble | null>(null);
  const open = async (file: File) => {
    setTrouble(null);
    try {
      if (file.name.toLowerCase().endsWith(".zip")) take(await send<State>("/api/archives", file));
      else take(await answer(api.POST("/api/layouts", { body: JSON.parse(await file.text()) })));
      useBench.getState().set({ page: "bench" }); // what was opened is looked at
    } catch (error) {
      if (error instanceof Refused) setTrouble(error.trouble);
      else setTrouble({ message: `${file.name} is not a layout file: it is not readable as JSON.` });
    }
  };
  return (
    <div>
      <FilePick
        label="Layout file"
        accept=".json,.zip,application/json,application/zip"
        onPick={(file) => void open(file)}
      >
        Open a layout file or archive…
      </FilePick>
      {trouble ? (
        <div role="alert" className="mt-2 text-oxide text-xs">
          <p>{trouble.message}</p>
          <ul className="list-disc pl-4">
            {trouble.problems?.slice(0, 6).map((p) => (
              <li key={p.path + p.sentence}>
                <code>{p.path || "/"}</code> {p.sentence}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
    </div>
  );
}
