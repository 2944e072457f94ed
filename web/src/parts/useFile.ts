import { useState } from "react";
import type { Trouble } from "../api/client";

/** Fetches a file and hands it to the browser to keep, saying meanwhile that it is being written. */
export function useFile() {
  const [writing, setWriting] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const get = async (what: string, path: string) => {
    setWriting(what);
    setWrong(null);
    try {
      const got = await fetch(path);
      if (!got.ok) {
        const trouble = (await got.json().catch(() => null)) as Trouble | null;
        setWrong(trouble?.message ?? "That file could not be written.");
        return;
      }
      const name = /filename="([^"]+)"/.exec(got.headers.get("Content-Disposition") ?? "")?.[1] ?? "wire-book";
      const url = URL.createObjectURL(await got.blob());
      const link = document.createElement("a");
      link.href = url;
      link.download = name;
      link.click();
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
    } catch {
      setWrong("The program does not answer. It may have been stopped; nothing saved is lost.");
    } finally {
      setWriting(null);
    }
  };
  return { writing, wrong, get };
}

/** A path with its question, leaving out what is empty. */
export function pathOf(path: string, question: Record<string, string | number | null | undefined>) {
  const asked = new URLSearchParams();
  for (const [key, value] of Object.entries(question))
    if (value !== null && value !== undefined && value !== "") asked.set(key, String(value));
  const text = asked.toString();
  return text ? `${path}?${text}` : path;
}
