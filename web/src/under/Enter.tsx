import { useState } from "react";
import { answer, api } from "../api/client";
import { read, useUnder } from "./store";

/** Asks for the club's passphrase, when the program is opened to the club's network. */
export function Enter({ onIn }: { onIn: () => Promise<void> }) {
  const [phrase, setPhrase] = useState("");
  const [name, setName] = useState(read("copper.under.who", ""));
  const [wrong, setWrong] = useState<string | null>(null);
  const enter = async () => {
    try {
      await answer(api.POST("/api/enter", { body: { phrase, name: name.trim() } }));
      useUnder.getState().call(name.trim());
      await onIn();
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <form
      className="p-5"
      onSubmit={(e) => {
        e.preventDefault();
        void enter();
      }}
    >
      <h1 className="font-bold text-xl">Jolly Copper</h1>
      <label className="mt-3 block text-mute">
        Your name
        <input
          className="mt-1 block w-full rounded-xl border border-line bg-card px-3 py-3 text-[18px] text-ink"
          value={name}
          maxLength={40}
          autoComplete="name"
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label className="mt-3 block text-mute">
        The club’s passphrase
        <input
          className="mt-1 block w-full rounded-xl border border-line bg-card px-3 py-3 text-[18px] text-ink"
          value={phrase}
          autoCapitalize="none"
          autoComplete="current-password"
          aria-invalid={wrong !== null}
          onChange={(e) => {
            setPhrase(e.target.value);
            setWrong(null);
          }}
        />
      </label>
      {wrong ? (
        <p role="alert" className="mt-1 text-oxide">
          {wrong}
        </p>
      ) : null}
      <button
        type="submit"
        className="mt-3 h-14 w-full rounded-xl bg-copper font-bold text-[#1a1208] disabled:opacity-40"
        disabled={!phrase.trim() || !name.trim()}
      >
        Come in
      </button>
      <p className="mt-3 text-[14px] text-mute">The lead reads it off the club’s computer, where the program runs.</p>
    </form>
  );
}
