import { useTravel } from "./queries";

/** The way back, what travels in which box, and each board by itself on a bench. */
export function Packing() {
  const { data } = useTravel();
  if (!data) return <p className="p-3 text-mute text-xs">Putting the boxes together…</p>;
  if (!data.steps.length) return <p className="p-3 text-[12px]">{data.words}</p>;
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Take down and pack" data-testid="packing">
      <p className="no-print mb-2">
        <button type="button" className="btn" onClick={() => print()}>
          Print it
        </button>
      </p>
      <div className="grid gap-4 xl:grid-cols-3">
        <div>
          <h3 className="font-bold">Take down</h3>
          <ol className="list-decimal pl-5">
            {data.take_down.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ol>
        </div>
        <div>
          <h3 className="font-bold">Packing list</h3>
          {data.boxes.map((b) => (
            <div key={b.name} className="mb-1.5">
              <b>{b.name || "By themselves"}</b>
              <ul className="list-disc pl-5">
                {b.boards.map((w) => (
                  <li key={w}>{w}</li>
                ))}
              </ul>
            </div>
          ))}
          <b>Beside the boards</b>
          <ul className="list-disc pl-5">
            {data.loose.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </div>
        <div>
          <h3 className="font-bold">A board alone on the bench</h3>
          {data.alone.map((a) => (
            <details key={a.board} className="mb-1">
              <summary className="cursor-pointer">
                <b>{a.name}</b>: {a.feeds.length ? `feed ${a.feeds.length}` : "power stands on it, nothing to feed"}
                {a.clip.length ? `, clip ${a.clip.length}` : ""}
              </summary>
              <ul className="list-disc pl-5 text-[11.5px]">
                {[...a.feeds, ...a.clip].map((w) => (
                  <li key={w}>{w}</li>
                ))}
              </ul>
            </details>
          ))}
        </div>
      </div>
    </section>
  );
}
