import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shape, send } from "../api/client";
import { bound } from "../parts/bound";
import { FilePick } from "../parts/FilePick";
import { momentOf } from "../parts/when";

/** Where the club file is, its copies, whether it is sound, and putting a copy back. */
export function ClubFile() {
  const queries = useQueryClient();
  const { data, error } = useQuery({ queryKey: ["club"], queryFn: () => answer(api.GET("/api/club")) });
  const [busy, setBusy] = useState<string | null>(null);
  const [said, setSaid] = useState<{ words: string; problems: string[]; wrong: boolean } | null>(null);
  const [sure, setSure] = useState<string | null>(null);
  const [put, setPut] = useState(false);

  // Buttons are told to be disabled while one works, not made so: a disabled one would lose the keyboard's place.
  const doing = async (what: string, work: () => Promise<{ words: string; problems?: string[] } | null>) => {
    if (busy !== null) return;
    setBusy(what);
    setSaid(null);
    setSure(null);
    try {
      const got = await work();
      if (got) setSaid({ words: got.words, problems: got.problems ?? [], wrong: Boolean(got.problems?.length) });
    } catch (trouble) {
      setSaid({ words: (trouble as Error).message, problems: [], wrong: true });
    } finally {
      setBusy(null);
      void queries.invalidateQueries({ queryKey: ["club"] });
    }
  };
  const keep = () =>
    doing("Copying…", async () => {
      const club: Shape["ClubShape"] = await answer(api.POST("/api/club/copies"));
      return { words: `Kept as ${club.copies[0]?.name ?? "a copy"}.` };
    });
  const check = () => doing("Reading every layout…", () => answer(api.POST("/api/club/check")));
  const putBack = (copy: string) =>
    doing("Putting it back…", async () => {
      const got = await answer(api.POST("/api/club/put-back", { params: { query: { copy } } }));
      setPut(true);
      return got;
    });
  const sendOne = (file: File) =>
    doing("Putting it back…", async () => {
      const got = await send<Shape["Restored"]>("/api/club/restore", file);
      setPut(true);
      return got;
    });

  if (error) return <p className="mt-3 text-oxide text-xs">{(error as Error).message}</p>;
  if (!data) return <p className="mt-3 text-mute text-xs">Looking…</p>;
  return (
    <div className="mt-3 text-[13px]">
      <p>
        <b>{data.file}</b>, {bound(data.size_text)}, in <code className="break-all">{data.folder}</code>
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <a className="btn" href="/api/club/backup" download>
          Download a copy
        </a>
        <button type="button" className="btn" aria-disabled={busy !== null} onClick={() => void keep()}>
          Keep a copy here now
        </button>
        <button type="button" className="btn" aria-disabled={busy !== null} onClick={() => void check()}>
          Is it sound?
        </button>
      </div>
      {busy ? (
        <p role="status" className="mt-2 text-mute">
          {busy}
        </p>
      ) : null}
      {said ? (
        <div role="status" className={`mt-2 ${said.wrong ? "text-oxide" : ""}`}>
          <p>{bound(said.words)}</p>
          <ul className="list-disc pl-4">
            {said.problems.map((p) => (
              <li key={p}>{p}</li>
            ))}
          </ul>
          {put ? (
            <button type="button" className="btn mt-2" onClick={() => location.assign("/")}>
              Open it
            </button>
          ) : null}
        </div>
      ) : null}
      <h3 className="mt-4 font-bold">Copies kept beside it</h3>
      {data.copies.length ? (
        <ul className="mt-1">
          {data.copies.map((c) => (
            <li key={c.name} className="flex flex-wrap items-center gap-2 border-line border-t py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate">{c.name}</span>
                <span className="text-mute text-xs">
                  {momentOf(c.made)}, {bound(c.size_text)}
                </span>
              </span>
              <a className="btn" href={`/api/club/copies/${c.name}`} download aria-label={`Download ${c.name}`}>
                Download
              </a>
              <button
                type="button"
                className="btn"
                aria-disabled={busy !== null}
                onClick={() => (sure === c.name ? void putBack(c.name) : setSure(c.name))}
              >
                {sure === c.name ? "Really put it back" : "Put back…"}
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-1 text-mute">None yet. A program that serves the club makes one each night by itself.</p>
      )}
      {sure ? (
        <p className="mt-1 text-xs">
          Everything done since this copy was made goes out of the club file; what is there now is kept as a copy first.
        </p>
      ) : null}
      <h3 className="mt-4 font-bold">A copy from elsewhere</h3>
      <FilePick
        label="Copy of a club file"
        accept=".sqlite3,.db"
        className="btn mt-1"
        disabled={busy !== null}
        onPick={(file) => void sendOne(file)}
      >
        Put a file back…
      </FilePick>
      <p className="mt-1 text-mute text-xs">
        It is looked over first. One that is not sound is refused, and what is there now is kept as a copy.
      </p>
    </div>
  );
}
