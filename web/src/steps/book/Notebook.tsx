import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shape, send } from "../../api/client";
import { useWhere } from "../../api/queries";
import { FilePick } from "../../parts/FilePick";
import { dayOf } from "../../parts/when";
import { type Kind, useBench } from "../../store/bench";
import { keep, kept } from "../../store/bench/kept";
import { useLayout } from "../../store/layout";
import { writeNote } from "../../store/notes";

type Note = Shape["NoteShape"];
const KINDS = ["note", "decision", "trouble"] as const;
const SAYS = {
  note: "Note",
  decision: "Decision, with its reason",
  trouble: "Trouble, open until taken back",
} as const;

/** The notebook: notes, decisions and troubles about anything, a photo where one helps, and a search through all of it. */
export function Notebook() {
  const { id } = useWhere();
  const [looking, setLooking] = useState("");
  const [asked, setAsked] = useState("");
  const { data, error } = useQuery({
    queryKey: ["notes", id],
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/notes", { params: { path: { layout_id: id } } })),
  });
  const found = useQuery({
    queryKey: ["search", id, asked, data?.notes.length],
    enabled: asked.trim() !== "",
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/search", {
          params: { path: { layout_id: id }, query: { text: asked } },
        }),
      ),
  });
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4 text-[12.5px]" data-testid="notebook">
      <form
        className="mb-3 flex max-w-[820px] items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(looking);
        }}
      >
        <label className="min-w-0 flex-1 text-[11.5px] text-mute">
          Look through all that is written: notes, decisions, work, readings, shows, changes
          <input
            type="search"
            className="field mt-0.5"
            value={looking}
            placeholder="booster hum"
            onChange={(e) => {
              setLooking(e.target.value);
              if (!e.target.value) setAsked("");
            }}
          />
        </label>
        <button type="submit" className="btn">
          Look
        </button>
      </form>
      {asked && found.data ? (
        <section aria-label="Found" className="mb-4 max-w-[820px]">
          <h3 className="font-bold">
            {found.data.length ? `${found.data.length} found` : "Nothing written has that."}
          </h3>
          <ul>
            {found.data.map((f) => (
              <li key={`${f.kind} ${f.on} ${f.about} ${f.text}`} className="border-line border-b py-1">
                <span className="text-mute">
                  {f.kind}
                  {f.about ? `, ${f.about}` : ""}
                  {f.on ? `, ${dayOf(f.on)}` : ""}
                  {f.who ? `, ${f.who}` : ""}:
                </span>{" "}
                {f.text}
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      <Write key={id} layout={id} />
      {error ? (
        <p role="alert" className="text-oxide">
          {(error as Error).message}
        </p>
      ) : null}
      {data && !data.notes.length ? (
        <p className="max-w-[820px] rounded-lg border border-line bg-card p-2.5">
          Nothing is written yet. What one knows by heart today, somebody else needs in five years: why the booster
          stands where it does, which wire was a compromise, what hums.
        </p>
      ) : null}
      <ul className="grid max-w-[820px] gap-2">
        {data?.notes.map((n) => (
          <OneNote key={n.id} note={n} />
        ))}
      </ul>
    </div>
  );
}

function Write({ layout }: { layout: string }) {
  const selected = useBench((s) => s.selected);
  const boards = useLayout((s) => s.state?.document.boards) ?? {};
  const [kind, setKind] = useState<(typeof KINDS)[number]>("note");
  const [about, setAbout] = useState(selected ? `${selected.kind}:${selected.id}` : "");
  const draft = `note.${layout}`; // what is half written outlives a reload
  const [text, setText] = useState(() => kept(draft) ?? "");
  const [photo, setPhoto] = useState<string | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const type = (said: string) => {
    setText(said);
    keep(draft, said);
  };
  const takePhoto = async (file: File) => {
    setBusy(true);
    setWhy(null);
    try {
      setPhoto((await send<Shape["PhotoKept"]>("/api/photos", file)).photo);
    } catch (error) {
      setWhy((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const writeIt = async () => {
    if (!text.trim() && !photo) {
      setWhy("Write something, or add a photo.");
      return;
    }
    const wrong = await writeNote({ id: crypto.randomUUID(), kind, about, text, photo });
    setWhy(wrong);
    if (wrong) return;
    type("");
    setPhoto(null);
  };
  return (
    <section aria-label="Write a note" className="mb-4 max-w-[820px] rounded-lg border border-line bg-card p-3">
      <div className="grid grid-cols-2 gap-2">
        <label className="text-[11.5px] text-mute">
          What it is
          <select className="field mt-0.5" value={kind} onChange={(e) => setKind(e.target.value as typeof kind)}>
            {KINDS.map((k) => (
              <option key={k} value={k}>
                {SAYS[k]}
              </option>
            ))}
          </select>
        </label>
        <label className="text-[11.5px] text-mute">
          About
          <select className="field mt-0.5" value={about} onChange={(e) => setAbout(e.target.value)}>
            <option value="">the whole railroad</option>
            {selected && selected.kind !== "board" ? (
              <option value={`${selected.kind}:${selected.id}`}>
                {selected.kind} {selected.id}, as picked on the plan
              </option>
            ) : null}
            {Object.entries(boards).map(([key, b]) => (
              <option key={key} value={`board:${key}`}>
                Board {b.name}
              </option>
            ))}
          </select>
        </label>
      </div>
      <label className="mt-2 block text-[11.5px] text-mute">
        In words
        <textarea
          className="field mt-0.5 min-h-16"
          maxLength={4000}
          value={text}
          onChange={(e) => type(e.target.value)}
        />
      </label>
      {photo ? (
        <img
          className="mt-2 max-h-40 rounded border border-line"
          src={`/api/pictures/${photo}`}
          alt="Chosen for this note"
        />
      ) : null}
      {why ? (
        <p role="alert" className="mt-1.5 text-oxide text-xs">
          {why}
        </p>
      ) : null}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button type="button" className="btn-main" onClick={() => void writeIt()}>
          Write it down
        </button>
        <FilePick
          label="Photo"
          accept="image/jpeg,image/png,image/webp"
          disabled={busy}
          onPick={(f) => void takePhoto(f)}
        >
          {busy ? "Making it plain…" : photo ? "Another photo…" : "Add a photo…"}
        </FilePick>
        <span className="text-mute text-xs">Up to 10 MB; where it was taken does not come along.</span>
      </div>
    </section>
  );
}

function OneNote({ note }: { note: Note }) {
  const show = useBench((s) => s.show);
  const set = useBench((s) => s.set);
  const [writing, setWriting] = useState<string | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  const [kind, thing] = (note.about ?? "").split(":");
  const { id, about, photo } = note;
  const again = async (text: string, picture = photo) => {
    const wrong = await writeNote({ id, kind: note.kind, about, text, photo: picture });
    setWhy(wrong);
    if (!wrong) setWriting(null);
  };
  return (
    <li className="rounded-lg border border-line bg-card p-2.5" data-note={note.kind}>
      <p className="text-[11.5px] text-mute">
        <b className={note.kind === "trouble" ? "text-oxide" : "text-ink"}>{note.kind}</b>
        {note.about_words ? ` · ${note.about_words}` : ""} · {dayOf(note.made)}
        {note.who ? ` · ${note.who}` : ""}
      </p>
      {writing === null ? (
        <p className="whitespace-pre-wrap">{note.text}</p>
      ) : (
        <textarea
          className="field min-h-16"
          aria-label="The note"
          value={writing}
          onChange={(e) => setWriting(e.target.value)}
        />
      )}
      {photo ? (
        <a href={`/api/pictures/${photo}`}>
          <img
            className="mt-1 max-h-52 rounded border border-line"
            src={`/api/pictures/${photo}`}
            alt={note.text || `Photo of ${note.about_words || "the railroad"}`}
          />
        </a>
      ) : null}
      {why ? (
        <p role="alert" className="text-oxide text-xs">
          {why}
        </p>
      ) : null}
      <p className="mt-1 flex gap-3 text-xs">
        {writing === null ? (
          <button type="button" className="act" onClick={() => setWriting(note.text ?? "")}>
            Change
          </button>
        ) : (
          <>
            <button type="button" className="act" onClick={() => void again(writing)}>
              Keep it so
            </button>
            <button type="button" className="act" onClick={() => setWriting(null)}>
              Leave it
            </button>
          </>
        )}
        <button type="button" className="act" onClick={() => void again("", null)}>
          {note.kind === "trouble" ? "It is mended: take it back" : "Take it back"}
        </button>
        {thing ? (
          <button
            type="button"
            className="act"
            onClick={() => {
              set({ step: "wire" });
              show({ kind: kind as Kind, id: thing }, null, [thing]);
            }}
          >
            Show
          </button>
        ) : null}
      </p>
    </li>
  );
}
