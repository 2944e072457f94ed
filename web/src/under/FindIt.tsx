import { ChevronLeft, Undo2 } from "lucide-react";
import { useCallback, useEffect, useState } from "react";
import { answer, api, type Shape } from "../api/client";
import { bound } from "../parts/bound";
import { newId } from "../store/proving";
import { read, useUnder, write } from "./store";

type Hunts = Shape["HuntsShape"];
type Hunt = Shape["HuntShape"];
const huntKey = (layout: string) => `copper.hunt.${layout}`;
const BIG = "rounded-xl border border-line bg-board px-3 py-4 font-bold text-[17px]";

/** Finding a fault from a phone: what is seen, then one thing to do at a time, with big answers. */
export function FindIt({ onBack }: { onBack: () => void }) {
  const layout = useUnder((s) => s.layout);
  const [hunts, setHunts] = useState<Hunts | null>(null);
  const [hunt, setHunt] = useState<Hunt | null>(null);
  const [kind, setKind] = useState<Hunts["symptoms"][number] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [text, setText] = useState("");
  const [near, setNear] = useState("");
  const path = { layout_id: layout };
  const attempt = useCallback(async (work: () => Promise<void>) => {
    setWrong(null);
    try {
      await work();
    } catch (error) {
      setWrong((error as Error).message);
    }
  }, []);
  useEffect(() => {
    void attempt(async () => {
      setHunts(await answer(api.GET("/api/layouts/{layout_id}/hunts", { params: { path: { layout_id: layout } } })));
      const open = read<string | null>(huntKey(layout), null);
      if (open)
        setHunt(
          await answer(
            api.GET("/api/layouts/{layout_id}/hunts/{hunt_id}", {
              params: { path: { layout_id: layout, hunt_id: open } },
            }),
          ).catch(() => null),
        );
    });
  }, [layout, attempt]);
  const begin = (where: { circuit?: string; track?: string; at?: number }) =>
    attempt(async () => {
      const id = newId("hunt");
      const symptom = { kind: (kind?.kind ?? "trips") as Shape["Symptom"]["kind"], ...where };
      setHunt(await answer(api.POST("/api/layouts/{layout_id}/hunts", { params: { path }, body: { id, symptom } })));
      write(huntKey(layout), id);
    });
  const say = (act: string, said: string) =>
    attempt(async () => {
      if (!hunt) return;
      setHunt(
        await answer(
          api.POST("/api/layouts/{layout_id}/hunts/{hunt_id}/answers", {
            params: { path: { ...path, hunt_id: hunt.hunt.id } },
            body: { id: newId("answer"), act, said },
          }),
        ),
      );
      setText("");
    });
  const end = () =>
    attempt(async () => {
      const found = hunt?.standing.found;
      if (!hunt || !found) return;
      await answer(
        api.POST("/api/layouts/{layout_id}/hunts/{hunt_id}/end", {
          params: { path: { ...path, hunt_id: hunt.hunt.id } },
          body: { cause: found.key, mend: found.mend, minutes: hunt.standing.minutes },
        }),
      );
      leave();
    });
  const leave = () => {
    write(huntKey(layout), null);
    setHunt(null);
    setKind(null);
  };
  const standing = hunt?.standing;
  const act = standing?.next;
  return (
    <>
      <header className="flex items-center gap-3 px-4 pt-3 pb-1">
        <button type="button" className="flex h-11 items-center text-[15px] text-mute" onClick={hunt ? leave : onBack}>
          <ChevronLeft size={20} aria-hidden="true" /> {hunt ? "Leave this hunt" : "Boards"}
        </button>
        <h1 className="flex-1 text-right font-bold text-lg">Find it</h1>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-4" data-testid="find-it">
        {wrong ? (
          <p role="alert" className="mb-2 rounded-xl border border-oxide px-3.5 py-2">
            {wrong}
          </p>
        ) : null}
        {!hunts && !wrong ? <p className="text-mute">Fetching what can be hunted…</p> : null}
        {hunts && !hunt && !kind ? (
          <ul className="flex flex-col gap-2">
            {hunts.symptoms.map((s) => (
              <li key={s.kind}>
                <button
                  type="button"
                  className={`${BIG} w-full text-left`}
                  onClick={() => {
                    setKind(s);
                    if (!s.wants) void begin({});
                  }}
                >
                  {s.words}
                </button>
              </li>
            ))}
          </ul>
        ) : null}
        {hunts && !hunt && kind?.wants === "circuit" ? (
          <ul className="flex flex-col gap-2" aria-label="Which">
            {hunts.circuits.map((c) => (
              <li key={c.id}>
                <button
                  type="button"
                  className={`${BIG} w-full text-left`}
                  onClick={() => void begin({ circuit: c.id })}
                >
                  {c.name}
                </button>
              </li>
            ))}
          </ul>
        ) : null}
        {hunts && !hunt && kind?.wants === "place" ? (
          <>
            <input
              className="mb-2 w-full rounded-xl border border-line bg-card px-3 py-3 text-[17px] text-ink"
              aria-label="Near which section or turnout"
              placeholder="Near which section or turnout?"
              value={near}
              onChange={(e) => setNear(e.target.value)}
            />
            <ul className="flex flex-col gap-2" aria-label="Where">
              {hunts.places
                .filter((p) => p.name.toLowerCase().includes(near.trim().toLowerCase()))
                .map((p) => (
                  <li key={`${p.name}${p.track}${p.at}`}>
                    <button
                      type="button"
                      className={`${BIG} w-full text-left`}
                      onClick={() => void begin({ track: p.track, at: p.at })}
                    >
                      {p.name}
                    </button>
                  </li>
                ))}
            </ul>
          </>
        ) : null}
        {standing ? (
          <>
            <p className="text-[14px] text-mute">
              {bound(standing.words)}, {Math.round(standing.minutes)} minutes so far
            </p>
            {standing.meanwhile ? <p className="text-[14px] text-mute">{bound(standing.meanwhile)}</p> : null}
            {standing.missing.length ? <p role="alert">The layout wants {standing.missing.join(" and ")}.</p> : null}
            {standing.found ? (
              <section className="mt-2 rounded-xl border-2 border-verd p-3.5" aria-label="Found">
                <p className="font-bold text-[20px] leading-snug">Found: {bound(standing.found.words)}</p>
                <p className="mt-1">{standing.found.mend} Then try once more what was seen.</p>
              </section>
            ) : null}
            {act && !standing.found ? (
              <section className="mt-2" aria-label="Do now">
                <p className="font-bold text-[22px] leading-snug">{bound(act.words)}</p>
                <p className="mt-1 text-[16px]">{bound(act.how)}</p>
                {act.caution ? (
                  <p className="mt-1.5 rounded-xl border border-amber px-3 py-1.5 text-[14px]">{act.caution}</p>
                ) : null}
                <p className="mt-1.5 text-[14px] text-mute">{bound(standing.why)}</p>
                <ol className="mt-3 text-[15px]" aria-label="Most likely">
                  {standing.likely.map((l) => (
                    <li key={l.key} className="flex gap-2 border-line border-b py-1">
                      <span className="min-w-0 flex-1">{bound(l.words)}</span>
                      <span className="figure">{Math.round(l.chance * 100)} %</span>
                    </li>
                  ))}
                </ol>
              </section>
            ) : null}
          </>
        ) : null}
      </div>
      {standing?.found ? (
        <footer className="grid grid-cols-2 gap-2.5 px-4 pb-4">
          <button type="button" className={BIG} onClick={() => void say("", "back")}>
            Still there
          </button>
          <button type="button" className={`${BIG} bg-copper text-[#1a1208]`} onClick={() => void end()}>
            It is gone
          </button>
        </footer>
      ) : null}
      {act && !standing?.found ? (
        <footer className="px-4 pb-4">
          {act.unit ? (
            <form
              className="mb-2.5 flex gap-2.5"
              onSubmit={(event) => {
                event.preventDefault();
                if (text.trim()) void say(act.key, text);
              }}
            >
              <input
                className="figure h-16 min-w-0 flex-1 rounded-xl border border-line bg-card px-3 text-[22px] text-ink"
                aria-label="What the meter shows"
                value={text}
                autoComplete="off"
                placeholder={act.unit === "V" ? "310 mV" : "0.4 or OL"}
                onChange={(e) => setText(e.target.value)}
              />
              <button type="submit" className="h-16 w-[92px] rounded-xl bg-copper font-bold text-[#1a1208] text-[18px]">
                Keep
              </button>
            </form>
          ) : null}
          <div className="grid grid-cols-2 gap-2.5">
            {act.answers.map((a) => (
              <button key={a.said} type="button" className={BIG} onClick={() => void say(act.key, a.said)}>
                {a.words}
              </button>
            ))}
            <button type="button" className={BIG} onClick={() => void say(act.key, "unsure")}>
              Not sure
            </button>
            {standing?.answers.length ? (
              <button
                type="button"
                className={`${BIG} flex items-center justify-center gap-1.5`}
                onClick={() => void say("", "back")}
              >
                <Undo2 size={17} aria-hidden="true" /> Take back
              </button>
            ) : null}
          </div>
        </footer>
      ) : null}
    </>
  );
}
