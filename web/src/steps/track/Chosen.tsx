import { useState } from "react";
import type { Operation } from "../../api/client";
import { useAnswers } from "../../api/queries";
import { CODES, JOINERS, METALS, USES } from "../../parts/choices";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { eraseChosen } from "../../plan/tools/usePlanKeys";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** Several things chosen at once: what they are, and for tracks one setting for all of them. */
export function Chosen() {
  const { chosen, select } = useBench();
  const { data } = useAnswers();
  const edit = useLayout((s) => s.edit);
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  const tracks = chosen.filter((c) => c.kind === "track").map((c) => c.id);
  const [shown, setShown] = useState(0);
  const total = tracks.reduce((sum, t) => sum + (data?.tracks[t]?.length ?? 0), 0);
  const setAll = async (field: string, value: unknown, words: string) => {
    const patch: Operation[] = tracks.map((t) => ({ op: "replace", path: `/tracks/${t}/${field}`, value }));
    const why = await edit(`${tracks.length} tracks: ${words}`, patch, true);
    if (why === null) setShown((n) => n + 1);
    return why;
  };
  const pick = "choose…";
  return (
    <section className="border-line border-b bg-paper p-3" aria-label="Chosen" data-testid="chosen">
      <h2 className="font-bold text-sm">{chosen.length} things chosen</h2>
      <p className="text-mute text-xs">
        {tracks.length} tracks, {lengthText(total, metric)}
        {chosen.length > tracks.length ? `, ${chosen.length - tracks.length} other` : ""}
      </p>
      {tracks.length ? (
        <div className="mt-2 grid grid-cols-2 gap-2" key={shown}>
          <Choice label="Use" value={pick} options={[pick, ...USES]} onChange={(v) => void setAll("use", v, v)} />
          <Typed
            label="Rail code"
            kind="text"
            shown=""
            placeholder="as they are"
            options={CODES}
            onTake={(v) => setAll("code", Number.isInteger(Number(v)) ? Number(v) : v, `code ${v}`)}
          />
          <Choice label="Metal" value={pick} options={[pick, ...METALS]} onChange={(v) => void setAll("metal", v, v)} />
          <Choice
            label="Joiners"
            value={pick}
            options={[pick, ...JOINERS]}
            onChange={(v) => void setAll("joiners", v, `${v} joiners`)}
          />
          <Typed
            label="A joiner every"
            kind="length"
            bare={metric ? "mm" : "in"}
            shown=""
            placeholder="as they are"
            onTake={(v, t) => setAll("joiner_every", v, `joiner every ${t}`)}
          />
        </div>
      ) : null}
      <div className="mt-2.5 flex gap-2">
        <button type="button" className="btn" onClick={eraseChosen}>
          Take away
        </button>
        <button type="button" className="btn" onClick={() => select(null)}>
          Choose nothing
        </button>
      </div>
    </section>
  );
}
