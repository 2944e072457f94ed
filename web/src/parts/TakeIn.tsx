import { useRef, useState } from "react";
import { answer, api, Refused, type Trouble } from "../api/client";
import { useLayout } from "../store/layout";

/** Opens a layout file. A file that cannot be read says where and why, and changes nothing. */
export function TakeIn() {
  const take = useLayout((s) => s.take);
  const input = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState<Trouble | null>(null);
  const open = async (file: File) => {
    setTrouble(null);
    try {
      const document = JSON.parse(await file.text());
      take(await answer(api.POST("/api/layouts", { body: document })));
    } catch (error) {
      if (error instanceof Refused) setTrouble(error.trouble);
      else setTrouble({ message: `${file.name} is not a layout file: it is not readable as JSON.` });
    }
  };
  return (
    <div>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="hidden"
        aria-label="Layout file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void open(file);
        }}
      />
      <button type="button" className="btn" onClick={() => input.current?.click()}>
        Open a layout file…
      </button>
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
