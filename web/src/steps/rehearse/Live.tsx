import { useState } from "react";
import { answer, api } from "../../api/client";
import { clock } from "../../store/evening";
import { type Lies, useRailroad } from "../../store/railroad";

/** How a turnout can lie where the box does not say. */
const TWO_WAYS: Lies[] = ["through", "diverging"];

/** The railroad itself, or what stands in for it: what it reports, inked on the plan, and what can be done on it. */
export function Live() {
  const { port, hello, listening, trouble, lit, last, open, amps, t, news, lies, listen, hangUp } = useRailroad();
  const [typed, setTyped] = useState(String(port));
  const [wrong, setWrong] = useState<string | null>(null);
  const [turnout, setTurnout] = useState("");
  const number = Number(typed);
  const bad = !Number.isInteger(number) || number < 1024 || number > 65535 ? "1024 to 65535" : null;
  const act = async (body: {
    do: "throw" | "power" | "drive";
    turnout?: string;
    lies?: Lies;
    device?: string;
    on?: boolean;
    train?: string;
    does?: "go" | "stop" | "turn";
  }) => {
    setWrong(null);
    try {
      await answer(api.POST("/api/line/do", { body: { port, ...body } }));
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  const chosen = hello?.turnouts.some((x) => x.id === turnout) ? turnout : (hello?.turnouts[0]?.id ?? "");
  const ways = hello?.turnouts.find((x) => x.id === chosen)?.lies ?? TWO_WAYS;
  const driven = hello?.trains?.filter((x) => x.driven) ?? [];
  return (
    <div className="min-h-0 overflow-auto p-3 text-[12.5px]" data-testid="live">
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!bad) listen(number);
        }}
      >
        <label className="flex flex-col text-[11.5px] text-mute">
          Port of this machine
          <input
            className="field figure mt-0.5 w-24 text-ink"
            value={typed}
            aria-invalid={bad !== null}
            onChange={(e) => setTyped(e.target.value)}
          />
          {bad ? (
            <span role="alert" className="block text-[11px] text-oxide">
              {bad}
            </span>
          ) : null}
        </label>
        {listening ? (
          <button key="hang up" type="button" className="btn" onClick={hangUp}>
            Hang up
          </button>
        ) : (
          <button key="listen" type="submit" className="btn-main">
            Listen
          </button>
        )}
        <p className="max-w-[560px] pb-1 text-mute text-xs">
          The club&apos;s own box, or <span className="figure">jolly-copper stand-in LAYOUT PLAN</span>, which plays a
          rehearsed evening as the railroad would report it.
        </p>
      </form>
      {trouble ? (
        <p role="status" className="mt-2 text-link">
          {trouble}
        </p>
      ) : null}
      {hello ? (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)] gap-4">
          <section aria-label="Reports">
            <h3 className="font-semibold">
              {hello.railroad}, {clock(t)}
            </h3>
            <p className="mt-1 text-mute text-xs">The number that came last</p>
            <p className="figure text-[28px] leading-tight" data-testid="last-number">
              {last?.address ?? "–"}
            </p>
            <p className="text-xs">{last?.section ?? "Put an engine on a section and see its number come."}</p>
            <p className="mt-2 text-xs">
              Occupied:{" "}
              {[...lit.values()].map((s) => `${s.section} (${s.address ?? "no number"})`).join(", ") || "nothing"}
            </p>
          </section>
          <section aria-label="Power">
            <h3 className="font-semibold">Power</h3>
            <ul className="mt-1 grid gap-1">
              {hello.devices.map((d) => (
                <li key={d.id} className="flex items-center gap-2">
                  <span className="min-w-0 flex-1 truncate">{d.device}</span>
                  <span className="figure text-xs">{(amps[d.id] ?? 0).toFixed(2)} A</span>
                  {d.switches === false ? null : (
                    <button
                      type="button"
                      className="btn px-1.5 py-0 text-xs"
                      onClick={() => void act({ do: "power", device: d.id, on: open.has(d.id) })}
                    >
                      <span className="sr-only">{d.device} </span>
                      {open.has(d.id) ? "open: close it" : "off"}
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
          <section aria-label="Turnouts">
            <h3 className="font-semibold">Turnouts</h3>
            <div className="mt-1 flex items-end gap-1.5">
              <label className="min-w-0 flex-1 text-[11.5px] text-mute">
                Throw
                <select className="field mt-0.5 text-ink" value={chosen} onChange={(e) => setTurnout(e.target.value)}>
                  {hello.turnouts.map((x) => (
                    <option key={x.id} value={x.id}>
                      {x.turnout}
                    </option>
                  ))}
                </select>
              </label>
              {ways
                .filter((way) => way !== lies[chosen])
                .map((way) => (
                  <button
                    key={way}
                    type="button"
                    className="btn"
                    onClick={() => void act({ do: "throw", turnout: chosen, lies: way })}
                  >
                    to {way}
                  </button>
                ))}
            </div>
            <p className="mt-1 text-xs">It lies {lies[chosen] ?? "as nobody knows"}.</p>
            {wrong ? (
              <p role="alert" className="mt-1 text-oxide text-xs">
                {wrong}
              </p>
            ) : null}
            {driven.map((x) => (
              <p key={x.id} className="mt-2 flex items-center gap-1.5" data-driven={x.train}>
                <span className="min-w-0 flex-1 truncate">{x.train}</span>
                {(["go", "stop", "turn"] as const).map((does) => (
                  <button
                    key={does}
                    type="button"
                    className="btn px-1.5 py-0.5 text-xs"
                    onClick={() => void act({ do: "drive", train: x.id, does })}
                  >
                    {does}
                  </button>
                ))}
              </p>
            ))}
            <ul className="mt-2 grid gap-0.5 text-xs">
              {news.map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ul>
          </section>
        </div>
      ) : null}
    </div>
  );
}
