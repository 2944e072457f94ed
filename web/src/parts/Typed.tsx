import { useEffect, useId, useRef, useState } from "react";
import { answer, api, type Shape } from "../api/client";
import { useLayout } from "../store/layout";
import { whileTaking } from "./taking";

type Kind = "length" | "current" | "volts" | "ohms" | "gauge" | "text";
/** Typing that rests so long is read, ms: a burst of keys is one question, and a hand is not at Enter sooner. */
const RESTS = 80;
type Props = {
  label: string;
  kind: Kind;
  /** What stands in the field now, as printed. */
  shown: string;
  /** The field of the document it stands for, as a path, where volts go by it: what is typed is worked out ahead. */
  at?: string;
  bare?: string;
  placeholder?: string;
  options?: string[];
  /** Called with the value understood: mm, A, V, Ω; a gauge's or plain text; null when cleared. Answers why not, or null. */
  onTake: (value: number | string | null, text: string) => Promise<string | null>;
  clearable?: boolean;
  hideLabel?: boolean;
  autoFocus?: boolean;
  onDone?: () => void;
  hint?: string;
};

/** A field that takes what a person would write, says beside itself what it could not read, and changes nothing then. */
export function Typed({
  label,
  kind,
  shown,
  at,
  bare,
  placeholder,
  options,
  onTake,
  clearable,
  hideLabel,
  autoFocus,
  onDone,
  hint,
}: Props) {
  const id = useId();
  const units = useLayout((s) => s.state?.document.brief?.units ?? "imperial");
  const [text, setText] = useState(shown);
  const [wrong, setWrong] = useState<string | null>(null);
  // What is being typed stays, whatever answer to the last Enter comes meanwhile.
  const typing = useRef(false);
  useEffect(() => {
    if (typing.current) return;
    setText(shown);
    setWrong(null);
  }, [shown]);

  // Enter takes what is typed, and leaving the field right after must not take it once more.
  const taking = useRef<string | null>(null);

  const take = () => {
    const typed = text.trim();
    typing.current = false;
    if (taking.current === typed) return;
    // While something is on its way, what is shown is not yet what it will be.
    if (typed === shown.trim() && taking.current === null) {
      setWrong(null);
      onDone?.();
      return;
    }
    taking.current = typed;
    whileTaking(read(typed));
  };

  // What is typed is read while the hand is still on its way to Enter.
  const ahead = useRef<{ typed: string; read: Promise<Shape["ReadAnswer"]> } | null>(null);
  const rest = useRef(0);
  useEffect(() => () => clearTimeout(rest.current), []);
  const understand = (typed: string): Promise<Shape["ReadAnswer"]> => {
    clearTimeout(rest.current);
    if (ahead.current?.typed !== typed) {
      const query = { kind: kind as Exclude<Kind, "text">, text: typed, units, ...(bare ? { bare } : {}) };
      const asked = answer(api.GET("/api/read", { params: { query } }));
      asked.catch(() => undefined);
      ahead.current = { typed, read: asked };
    }
    return ahead.current.read;
  };

  const getReady = async (typed: string) => {
    try {
      const { gauge, value } = await understand(typed);
      // Once it is taken it is on its way already.
      if (at && typed !== shown.trim() && taking.current === null && ahead.current?.typed === typed)
        useLayout.getState().foresee([{ op: "replace", path: at, value: gauge ?? value ?? null }]);
    } catch {
      // What cannot be read is told when it is taken.
    }
  };

  const read = async (typed: string): Promise<boolean> => {
    let why: string | null;
    try {
      if (typed === "" && clearable) why = await onTake(null, "");
      else if (kind === "text") why = typed ? await onTake(typed, typed) : "This must not be empty.";
      else {
        const understood = await understand(typed);
        why = await onTake(understood.gauge ?? understood.value ?? null, understood.text);
      }
    } catch (error) {
      why = (error as Error).message;
    }
    if (taking.current === typed) taking.current = null;
    ahead.current = null;
    setWrong(why);
    if (why === null) onDone?.();
    return why === null;
  };

  return (
    <div className="min-w-0">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "mb-0.5 block text-[11.5px] text-mute"}>
        {label}
      </label>
      <input
        id={id}
        className={`field ${kind === "text" ? "" : "figure"}`}
        value={text}
        placeholder={placeholder}
        list={options ? `${id}-options` : undefined}
        aria-invalid={wrong !== null}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        autoComplete="off"
        spellCheck={false}
        // biome-ignore lint/a11y/noAutofocus: a table cell opened for editing is where the person is
        autoFocus={autoFocus}
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          typing.current = true;
          setText(event.target.value);
          setWrong(null);
          const typed = event.target.value.trim();
          clearTimeout(rest.current);
          if (kind !== "text" && typed) rest.current = window.setTimeout(() => void getReady(typed), RESTS);
        }}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            take();
          }
          if (event.key === "Escape") {
            event.stopPropagation();
            typing.current = false;
            setText(shown);
            setWrong(null);
            onDone?.();
          }
        }}
      />
      {options ? (
        <datalist id={`${id}-options`}>
          {options.map((o) => (
            <option key={o} value={o} />
          ))}
        </datalist>
      ) : null}
      {wrong ? (
        <p id={`${id}-wrong`} role="alert" className="mt-0.5 text-oxide text-xs">
          {wrong}
        </p>
      ) : hint ? (
        <p className="mt-0.5 text-[11px] text-mute">{hint}</p>
      ) : null}
    </div>
  );
}

type ChoiceProps<T extends string> = {
  label: string;
  value: T;
  options: readonly T[];
  /** What each is called, where its own word is not for people. */
  says?: Record<T, string>;
  onChange: (value: T) => void;
  hideLabel?: boolean;
};

export function Choice<T extends string>({ label, value, options, says, onChange, hideLabel }: ChoiceProps<T>) {
  const id = useId();
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "mb-0.5 block text-[11.5px] text-mute"}>
        {label}
      </label>
      <select id={id} className="field" value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map((o) => (
          <option key={o} value={o}>
            {says ? says[o] : o}
          </option>
        ))}
      </select>
    </div>
  );
}
