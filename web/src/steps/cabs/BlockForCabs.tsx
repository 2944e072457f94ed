import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { useProposal } from "../../api/useProposal";
import { Preview } from "../../findings/Preview";
import { Busy } from "../../parts/Busy";
import { bound } from "../../parts/bound";
import { Choice } from "../../parts/Typed";
import { Whole } from "../../parts/Whole";
import { ShortestBlock } from "../../parts/Wished";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";

type Blocks = Shape["CabBlocksShape"];
const SCHOOLS = ["both rails", "common rail"] as const;
const WHY = {
  "both rails": "Gaps in both rails, switches of two poles: safe with any supply, twice the wire.",
  "common rail":
    "Gaps in one rail, always the same, and one wire common to all: half the wire, and every cab needs a supply winding of its own.",
};

/** The line parted into blocks for cabs, with selectors on a panel and the wire home, as one change. */
export function BlockForCabs() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const layout = useLayout((s) => s.state?.document);
  const devices = Object.values(layout?.devices ?? {});
  const blocked = devices.some((d) => d.kind === "selector");
  const metric = layout?.brief?.units === "metric";
  const there = devices.filter((d) => d.kind === "cab").length;
  const [school, setSchool] = useState<(typeof SCHOOLS)[number]>("both rails");
  const [cabs, setCabs] = useState(Math.max(there, 2));
  const [shortest, setShortest] = useState<number | null>(null);
  const [making, setMaking] = useState(false);
  const query = new URLSearchParams({ revision: String(revision), school, cabs: String(cabs) });
  if (shortest !== null) query.set("shortest", String(shortest));
  const { shown, error, busy, doing, ask, forget } = useProposal<Blocks>("cab-blocks", id, query.toString());
  useEffect(() => {
    set({ ghostInks: shown?.inks ?? [], ghostGaps: shown?.cuts ?? [] });
    return () => useBench.getState().set({ ghostInks: [], ghostGaps: [] });
  }, [shown, set]);
  return (
    <Fold title="Block it for cabs" open={!blocked && there > 0}>
      <form
        className="grid grid-cols-2 gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set({ look: "cabs" });
          ask();
        }}
      >
        <Choice label="Gaps cut in" value={school} options={SCHOOLS} onChange={setSchool} />
        <Whole least={1} label="Cabs" value={cabs} most={11} onTake={setCabs} />
        <ShortestBlock value={shortest} metric={metric} follows="the longest train" onTake={setShortest} />
        <button type="submit" className="btn-main self-end" disabled={busy || blocked}>
          {busy ? "Working it out…" : "Block it for cabs"}
        </button>
      </form>
      <p className="mt-1.5 text-[11.5px] text-mute">
        {blocked ? "There are selectors already: take them off first, or add single ones below. " : ""}
        {WHY[school]} Reversing sections are gapped in both rails in either school.
      </p>
      <Busy busy={busy} doing={doing} error={error} />
      {shown ? (
        <div className="mt-2.5 text-[12px]" data-testid="cab-blocks">
          <ul className="list-disc pl-4">
            {shown.words.map((w) => (
              <li key={w}>{bound(w)}</li>
            ))}
          </ul>
          <details className="mt-1.5">
            <summary className="cursor-pointer text-xs">Every block, and why</summary>
            <ul className="mt-1 grid gap-1">
              {shown.blocks.map((b) => (
                <li key={b.name} className="rounded border border-line bg-paper px-1.5 py-1 text-[11.5px] leading-snug">
                  <i
                    aria-hidden="true"
                    className="mr-1 inline-block size-2.5 rounded-full"
                    style={{ background: b.ink }}
                  />
                  <b>{b.name}</b> <span className="figure">{bound(b.length_text)}</span> · {b.switch}
                  <br />
                  <span className="text-mute">{b.why}</span>
                </li>
              ))}
            </ul>
          </details>
          <details className="mt-1">
            <summary className="cursor-pointer text-xs">Gaps to cut</summary>
            <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
              {shown.cuts.map((c) => (
                <li key={`${c.x},${c.y}`}>{bound(c.words)}</li>
              ))}
            </ul>
          </details>
          {shown.left_out.length ? (
            <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
              {shown.left_out.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </ul>
          ) : null}
          <button type="button" className="btn-main mt-2 w-full" onClick={() => setMaking(true)}>
            Make it…
          </button>
        </div>
      ) : null}
      {shown && making ? (
        <Preview
          title={shown.words.join(" ")}
          decides={shown.words.join(" ")}
          mend={shown.change}
          onClose={() => setMaking(false)}
          onMade={forget}
        />
      ) : null}
    </Fold>
  );
}
