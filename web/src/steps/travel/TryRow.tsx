import { useState } from "react";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { sayHow, type Tried, useShows } from "./queries";

/** One thing to try, with what is foretold, and how it went at the show. */
export function TryRow({ test, show, day }: { test: Tried; show: string; day: string }) {
  const { data } = useShows();
  const [why, setWhy] = useState<string | null>(null);
  const said = data?.entries.find((e) => e.show === show && e.day === day && e.what === test.key);
  const say = async (state: "sound" | "failed") => {
    if (!show) {
      setWhy("Name the show first, above.");
      return;
    }
    setWhy(await sayHow(show, day, test.key, said?.state === state ? "open" : state));
  };
  return (
    <li className="border-line border-b py-1.5" data-test={test.key}>
      <div className="grid grid-cols-[minmax(0,1fr)_auto] gap-3">
        <div>
          <b>{bound(test.title)}</b>
          {test.minutes ? <span className="figure text-mute"> {(test.minutes * 60).toFixed(0)} s</span> : null}
          {test.failed ? <span className="text-oxide"> failed {test.failed} × before</span> : null}
          <p>{bound(test.words)}</p>
          <p className="text-mute">
            Should be: <span className="figure">{bound(test.foretold)}</span>
          </p>
          {said?.state === "failed" ? (
            <div className="mt-1 max-w-md">
              <Typed
                label="What was wrong, and what mended it"
                kind="text"
                shown={said.note ?? ""}
                placeholder="Pin 3 pushed back in"
                clearable
                onTake={(v) => sayHow(show, day, test.key, "failed", String(v ?? "").slice(0, 500))}
              />
            </div>
          ) : null}
          {why ? (
            <p role="alert" className="text-oxide">
              {why}
            </p>
          ) : null}
        </div>
        <div className="no-print flex items-start gap-1">
          <button
            type="button"
            className={said?.state === "sound" ? "btn-main" : "btn"}
            aria-pressed={said?.state === "sound"}
            onClick={() => void say("sound")}
          >
            Sound<span className="sr-only">: {test.title}</span>
          </button>
          <button
            type="button"
            className={said?.state === "failed" ? "btn border-oxide text-oxide" : "btn"}
            aria-pressed={said?.state === "failed"}
            onClick={() => void say("failed")}
          >
            Failed<span className="sr-only">: {test.title}</span>
          </button>
        </div>
      </div>
    </li>
  );
}
