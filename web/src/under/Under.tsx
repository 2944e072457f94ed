import { Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { Boards } from "./Boards";
import { Enter } from "./Enter";
import { FindIt } from "./FindIt";
import { Prove } from "./Prove";
import { SetUp } from "./SetUp";
import { useUnder } from "./store";
import { TaskList } from "./TaskList";
import { TaskView } from "./TaskView";

const theme = () => {
  try {
    return localStorage.getItem("copper.under.theme") === "light" ? "light" : "dark";
  } catch {
    return "dark";
  }
};

/** The phone view: one board, one thing at a time, with one hand, in the dark. */
export function Under() {
  const { open, flush, go, board, task, pages, locked, through, wrong } = useUnder();
  const [shade, setShade] = useState<"light" | "dark">(theme());
  useEffect(() => {
    const asked = new URLSearchParams(location.search);
    const where = () => {
      const now = new URLSearchParams(location.search);
      useUnder.setState({ board: now.get("board"), task: now.get("task") });
    };
    where();
    void open(asked.get("layout") ?? "");
    const back = () => void flush();
    addEventListener("popstate", where);
    addEventListener("online", back);
    addEventListener("focus", back);
    return () => {
      removeEventListener("popstate", where);
      removeEventListener("online", back);
      removeEventListener("focus", back);
    };
  }, [open, flush]);
  useEffect(() => {
    document.documentElement.dataset.theme = shade;
    document.title = "Under the boards";
    try {
      localStorage.setItem("copper.under.theme", shade);
    } catch {
      // It stays dark next time.
    }
  }, [shade]);
  const [bench, setBench] = useState<"prove" | "find" | "set up" | null>(null);
  const here = pages?.boards.find((b) => b.key === board);
  const thing = here?.tasks.find((t) => t.key === task);
  return (
    <main className="mx-auto flex h-dvh max-w-[520px] flex-col text-[16px] leading-snug" id="under">
      {wrong && !locked ? (
        <p role="alert" className="bg-oxide px-4 py-2 text-[14px] text-paper">
          {wrong}
        </p>
      ) : null}
      {locked ? (
        <Enter
          // Anew, for without a ticket nobody could tell which layout there is.
          onIn={() => open(new URLSearchParams(location.search).get("layout") ?? "")}
        />
      ) : null}
      {!locked && !pages ? (
        <div className="p-5">
          <h1 className="font-bold text-xl">Under the boards</h1>
          <p className="mt-2 text-mute">
            {through && !wrong ? "Fetching the boards…" : "No answer from the club’s computer. It is tried again."}
          </p>
        </div>
      ) : null}
      {!locked && pages && here && thing ? <TaskView key={thing.key} board={here} task={thing} /> : null}
      {!locked && pages && here && !thing ? <TaskList board={here} /> : null}
      {!locked && pages && !here && bench === "prove" ? <Prove onBack={() => setBench(null)} /> : null}
      {!locked && pages && !here && bench === "find" ? <FindIt onBack={() => setBench(null)} /> : null}
      {!locked && pages && !here && bench === "set up" ? <SetUp onBack={() => setBench(null)} /> : null}
      {!locked && pages && !here && !bench ? <Boards onGo={(b) => go(b, null)} onBench={setBench} /> : null}
      {!locked && pages && !here && !bench ? (
        <p className="flex items-center gap-3 px-4 pb-4 text-[14px]">
          <button
            type="button"
            className="flex items-center gap-2 rounded-lg border border-line px-3 py-2"
            onClick={() => setShade(shade === "dark" ? "light" : "dark")}
          >
            {shade === "dark" ? <Sun size={16} aria-hidden="true" /> : <Moon size={16} aria-hidden="true" />}
            {shade === "dark" ? "Light" : "Dark"}
          </button>
          <a className="text-link underline" href={`/?layout=${pages.layout}#book`}>
            The whole layout
          </a>
        </p>
      ) : null}
    </main>
  );
}
