import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../../api/client";
import { bound } from "../../parts/bound";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { type CrossingKind, chosen, isIn, useTracing } from "../../store/tracing";

const USES = ["main", "branch", "siding", "yard", "staging", "engine terminal", "industry", "programming"] as const;
const DOUBTS = {
  "loose end near a line": "An end that nearly meets a line",
  "flat crossing": "A flat crossing: it may be a slip, or pass over",
  turntable: "A turntable, if this circle is one",
} as const;

/** What can be said before it is traced: the order of work, and whether the picture is fine enough for its scale. */
function Before() {
  const { id, revision } = useLayout((s) => s.state) ?? {};
  const saving = useLayout((s) => s.saving);
  const { data } = useQuery({
    queryKey: ["trace prospect", id, revision],
    // The picture may stand on the page before it is saved.
    enabled: id !== undefined && !saving,
    queryFn: () => answer(api.GET("/api/layouts/{layout_id}/trace", { params: { path: { layout_id: id ?? "" } } })),
  });
  return (
    <p className="mt-1 text-[11.5px] text-mute" data-testid="trace-before">
      {data?.drawing
        ? "A drawing: set its scale, then trace what is drawn with rails, sleepers or turnouts; single lines are taken in as they are under Drawings in and out."
        : "Straighten a photo, set the scale by two places, then trace: turnouts are told by the scale."}
      {data?.warning ? <b className="block text-amber">{bound(data.warning)}</b> : null}
    </p>
  );
}

/** The picture under the plan made square, traced, put right and taken as track. */
export function Trace() {
  const state = useLayout((s) => s.state);
  const { tool, measure, set } = useBench();
  const t = useTracing();
  const [wrong, setWrong] = useState<string | null>(null);
  const [taking, setTaking] = useState(false);
  const picture = state?.document.backdrop?.picture;
  const layout = state?.id;
  // Another picture, or another layout: what was traced is of the one before.
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what it goes by
  useEffect(() => {
    useTracing.getState().forget();
    useTracing.setState({ inks: null, uses: {}, shortest: null, only: null, leave: [] });
  }, [picture, layout]);
  useEffect(() => {
    const [a, b] = measure;
    if ((tool !== "leave out" && tool !== "only here") || !a || !b) return;
    const box: [number, number, number, number] = [
      Math.min(a.x, b.x),
      Math.min(a.y, b.y),
      Math.max(a.x, b.x),
      Math.max(a.y, b.y),
    ];
    if (tool === "leave out") t.set({ leave: [...t.leave, box] });
    else t.set({ only: box });
    set({ measure: [], tool: "select" });
  }, [tool, measure, set, t]);
  if (!state?.document.backdrop) return null;
  const kept = chosen(t);
  const take = async () => {
    setTaking(true);
    setWrong(await t.take());
    setTaking(false);
  };
  return (
    <div className="mt-2.5 border-line border-t pt-2 text-[12px]" data-testid="trace">
      <Straighten />
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button type="button" className="btn-main" disabled={t.doing !== null} onClick={() => void t.trace()}>
          {t.found ? "Trace it again" : "Trace it"}
        </button>
        {t.doing ? (
          <>
            <span role="status" className="text-mute">
              <progress className="mr-1 h-1.5 w-16" /> {t.doing}…
            </span>
            <button type="button" className="act" onClick={t.stop}>
              Stop
            </button>
          </>
        ) : (
          <label className="flex items-center gap-1.5 text-[11.5px] text-mute">
            Drawn as
            <select
              className="field w-auto text-ink"
              value={t.drawn}
              onChange={(e) => t.set({ drawn: e.target.value as "by itself" | "one line" })}
            >
              <option value="by itself">told by itself</option>
              <option value="one line">one line</option>
            </select>
          </label>
        )}
      </div>
      <div className="mt-1.5 flex flex-wrap gap-x-3 gap-y-1">
        <Boxed tool="leave out" words="Leave out a box" />
        <Boxed tool="only here" words="Only here" />
        {t.leave.length || t.only ? (
          <button type="button" className="act" onClick={() => t.set({ leave: [], only: null })}>
            Forget the boxes
          </button>
        ) : null}
      </div>
      {t.found || t.doing ? null : <Before />}
      {t.wrong || wrong ? (
        <p role="alert" className="mt-1.5 text-oxide">
          {t.wrong ?? wrong}
        </p>
      ) : null}
      {t.found ? (
        <div className="mt-2 grid gap-2">
          <p data-testid="trace-words">
            {bound(t.found.words)} Click a line to turn it over.
            {t.found.warning ? <b className="block text-amber">{bound(t.found.warning)}</b> : null}
          </p>
          <Inks />
          <label className="flex items-center gap-2 text-[11.5px] text-mute">
            Shortest line kept
            <input
              type="range"
              min="40"
              max="400"
              step="20"
              value={t.shortest ?? 120}
              className="min-w-0 flex-1 accent-[var(--copper)]"
              onChange={(e) => t.set({ shortest: Number(e.target.value) })}
            />
            <span className="figure w-14 text-right">{t.shortest === null ? "usual" : `${t.shortest} mm`}</span>
          </label>
          <Doubts />
          <Crossings />
          <Lines />
          <div className="flex gap-2">
            <button type="button" className="btn-main" disabled={taking || !kept.length} onClick={() => void take()}>
              {taking ? "Laying it…" : `Take ${kept.length} ${kept.length === 1 ? "line" : "lines"}`}
            </button>
            <button type="button" className="btn" onClick={t.forget}>
              Leave it
            </button>
          </div>
        </div>
      ) : null}
    </div>
  );
}

/** A button that takes a box of two clicks on the plan. */
function Boxed({ tool, words }: { tool: "leave out" | "only here"; words: string }) {
  const { tool: now, set } = useBench();
  return (
    <button
      type="button"
      className="act"
      aria-pressed={now === tool}
      onClick={() => set({ tool: now === tool ? "select" : tool, measure: [], note: null })}
    >
      {now === tool ? "Click two corners…" : words}
    </button>
  );
}

/** A photo made square by the four corners of its sheet. */
function Straighten() {
  const state = useLayout((s) => s.state);
  const edit = useLayout((s) => s.edit);
  const { tool, measure, set } = useBench();
  const [wide, setWide] = useState<number | null>(null);
  const [high, setHigh] = useState<number | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const on = tool === "corners";
  if (!state) return null;
  const metric = state.document.brief?.units === "metric";
  const make = async () => {
    if (!wide || !high || measure.length !== 4) return;
    setBusy(true);
    setWrong(null);
    try {
      const square = await answer(
        api.POST("/api/layouts/{layout_id}/straighten", {
          params: { path: { layout_id: state.id } },
          body: { corners: measure.map((p) => [p.x, p.y] as [number, number]), wide, high },
        }),
      );
      const value = { ...square, dim: state.document.backdrop?.dim ?? 0.5 };
      const why = await edit("Straighten the picture", [{ op: "replace", path: "/backdrop", value }]);
      if (why) setWrong(why);
      else set({ measure: [], tool: "select" });
    } catch (error) {
      setWrong((error as Error).message);
    }
    setBusy(false);
  };
  const size = (label: string, mm: number | null, onTake: (v: number) => void) => (
    <Typed
      label={label}
      kind="length"
      shown={mm ? (metric ? `${mm} mm` : `${+(mm / 25.4).toFixed(2)} in`) : ""}
      placeholder={metric ? "2400 mm" : "8 ft"}
      onTake={async (v) => {
        if (typeof v !== "number" || v < 50) return "At least 50 mm, or 2 in.";
        onTake(v);
        return null;
      }}
    />
  );
  return (
    <div>
      <button
        type="button"
        className="act"
        aria-pressed={on}
        onClick={() => set({ tool: on ? "select" : "corners", measure: [], note: null })}
      >
        {on ? "Leave it as it is" : "Straighten a photo…"}
      </button>
      {on ? (
        <div className="mt-1 grid gap-1.5 rounded-lg border border-line bg-paper p-2">
          <p role="status">
            {measure.length < 4
              ? `Click the corners of the sheet or board: ${4 - measure.length} more.`
              : "All four. How large is it?"}
          </p>
          <div className="grid grid-cols-2 gap-2">
            {size("It is wide", wide, setWide)}
            {size("and high", high, setHigh)}
          </div>
          <button
            type="button"
            className="btn-main"
            disabled={busy || measure.length !== 4 || !wide || !high}
            onClick={() => void make()}
          >
            {busy ? "Straightening…" : "Make it square"}
          </button>
          {wrong ? (
            <p role="alert" className="text-oxide">
              {wrong}
            </p>
          ) : null}
        </div>
      ) : null}
    </div>
  );
}

/** The inks that were found: which are track, and of what use. */
function Inks() {
  const { found, inks, uses, set } = useTracing();
  if (!found || found.inks.length < 2) return null;
  const on = inks ?? found.inks.filter((i) => i.chosen).map((i) => i.number);
  return (
    <fieldset>
      <legend className="text-[11.5px] text-mute">Inks that are track</legend>
      {found.inks.map((i) => (
        <div key={i.number} className="flex items-center gap-2 py-0.5">
          <label className="flex min-w-0 flex-1 items-center gap-1.5">
            <input
              type="checkbox"
              checked={on.includes(i.number)}
              onChange={(e) => set({ inks: e.target.checked ? [...on, i.number] : on.filter((n) => n !== i.number) })}
            />
            <i className="block size-3.5 rounded-sm border border-line" style={{ background: i.colour }} />
            {i.pale ? "pale" : "dark"}, <span className="figure">{i.share_text}</span>
          </label>
          {on.length > 1 && on.includes(i.number) ? (
            <select
              className="field w-32"
              aria-label={`Use of the ${i.pale ? "pale" : "dark"} ink ${i.number + 1}`}
              value={uses[i.number] ?? ""}
              onChange={(e) => {
                const { [i.number]: _, ...others } = uses;
                set({
                  uses: e.target.value ? { ...others, [i.number]: e.target.value as (typeof USES)[number] } : others,
                });
              }}
            >
              <option value="">as new track</option>
              {USES.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          ) : null}
        </div>
      ))}
      {inks ? <p className="text-mute">Trace it again for other inks.</p> : null}
    </fieldset>
  );
}

/** Places to look at before taking, each shown on the plan. */
function Doubts() {
  const { found } = useTracing();
  if (!found?.doubts.length) return null;
  return (
    <section aria-label="Look here">
      <h3 className="font-semibold">Look here</h3>
      <ol className="list-inside list-decimal">
        {found.doubts.map((d) => (
          <li key={`${d.kind}${d.x},${d.y}`}>
            {DOUBTS[d.kind]}{" "}
            <button
              type="button"
              className="act"
              onClick={() =>
                useBench.setState((s) => ({
                  showing: { thing: null, place: null, spot: { x: d.x, y: d.y }, count: s.showing.count + 1 },
                }))
              }
            >
              Show
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** What every crossing is, by keyboard as by a click on the plan. */
function Crossings() {
  const { found, crossings, set } = useTracing();
  if (!found?.crossings.length) return null;
  return (
    <fieldset>
      <legend className="font-semibold">Crossings</legend>
      {found.crossings.map((c, k) => (
        <label key={`${c.x},${c.y}`} className="flex items-center gap-2 py-0.5">
          <span className="figure w-5">{k + 1}</span>
          <select
            className="field w-auto"
            value={crossings[k] ?? c.kind}
            onChange={(e) => set({ crossings: { ...crossings, [k]: e.target.value as CrossingKind } })}
          >
            <option value="crossing">they cross</option>
            <option value="slip">a slip</option>
            <option value="over">one passes over</option>
          </select>
          {c.flat ? <span className="text-mute">flat</span> : null}
        </label>
      ))}
    </fieldset>
  );
}

/** Every line, to be turned over by keyboard as by a click on the plan. */
function Lines() {
  const { found, flipped, flip } = useTracing();
  const lines = (found?.lines ?? []).filter((l) => l.why !== "lettering");
  return (
    <details>
      <summary className="cursor-pointer">{lines.length} lines, one by one</summary>
      <ul className="mt-1 max-h-48 overflow-y-auto">
        {lines.map((l) => (
          <li key={l.number}>
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={isIn(l, flipped)} onChange={() => flip(l.number)} />
              <span className="figure w-16">{bound(l.length_text)}</span>
              <span className="min-w-0 flex-1 truncate text-mute">
                {l.why || [l.starts, l.ends].filter(Boolean).length
                  ? l.why || `leaves at ${[l.starts, l.ends].filter(Boolean).length === 2 ? "both ends" : "one end"}`
                  : l.closed
                    ? "comes round"
                    : "open"}
              </span>
            </label>
          </li>
        ))}
      </ul>
    </details>
  );
}
