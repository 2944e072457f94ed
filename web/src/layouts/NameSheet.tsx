import { type ReactNode, useId, useState } from "react";
import { Sheet } from "../parts/Sheet";

/** A sheet that asks for a name, and perhaps a note; what is wrong with it is said beside the field. */
export function NameSheet({
  title,
  lead,
  start = "",
  does,
  note,
  onDo,
  onClose,
  children,
}: {
  title: string;
  lead: string;
  start?: string;
  does: string;
  /** The note it begins with, where a note is asked for. */
  note?: string;
  onDo: (name: string, note: string) => Promise<string | null>;
  onClose: () => void;
  children?: ReactNode;
}) {
  const [name, setName] = useState(start);
  const [said, setSaid] = useState(note ?? "");
  const [wrong, setWrong] = useState<string | null>(null);
  const ids = { name: useId(), note: useId(), wrong: useId() };
  const go = async () => {
    if (!name.trim()) return setWrong("This needs a name.");
    const why = await onDo(name.trim(), said.trim());
    if (why) setWrong(why);
    else onClose();
  };
  return (
    <Sheet title={title} lead={lead} onClose={onClose}>
      <form
        className="mt-3 grid gap-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          void go();
        }}
      >
        <div>
          <label htmlFor={ids.name} className="text-mute text-xs">
            Name
          </label>
          <input
            id={ids.name}
            className="field mt-0.5"
            // biome-ignore lint/a11y/noAutofocus: the sheet was opened to type a name
            autoFocus
            maxLength={80}
            value={name}
            aria-invalid={wrong !== null}
            aria-describedby={wrong ? ids.wrong : undefined}
            onChange={(event) => {
              setName(event.target.value);
              setWrong(null);
            }}
          />
          {wrong ? (
            <p id={ids.wrong} role="alert" className="mt-1 text-oxide text-xs">
              {wrong}
            </p>
          ) : null}
        </div>
        {note !== undefined ? (
          <div>
            <label htmlFor={ids.note} className="text-mute text-xs">
              Note
            </label>
            <textarea
              id={ids.note}
              className="field mt-0.5"
              rows={3}
              maxLength={500}
              value={said}
              onChange={(event) => setSaid(event.target.value)}
            />
          </div>
        ) : null}
        {children}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn" onClick={onClose}>
            Leave it
          </button>
          <button type="submit" className="btn-main">
            {does}
          </button>
        </div>
      </form>
    </Sheet>
  );
}
