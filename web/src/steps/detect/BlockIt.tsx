import { useEffect, useState } from "react";
import type { Shape } from "../../api/client";
import { useDetectingSchools, useDetection, useWhere } from "../../api/queries";
import { useProposal } from "../../api/useProposal";
import { Preview } from "../../findings/Preview";
import { Busy } from "../../parts/Busy";
import { bound } from "../../parts/bound";
import { Choice, Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { Wanted } from "../../parts/Wanted";
import { Whole } from "../../parts/Whole";
import { ShortestBlock } from "../../parts/Wished";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";

type Blocking = Shape["BlockingShape"];
const PER_BLOCK = ["one", "two", "three"] as const;
const GAPS = ["one rail", "both rails"] as const;
const KINDS = ["current transformer", "diode drop", "opto", "isolated rail"] as const;
const SIZES = ["4", "8", "16"] as const;

/** The tool blocks the railroad: what is wished, what it proposes and why, and one change that makes it. */
export function BlockIt() {
  const { id, revision } = useWhere();
  const set = useBench((s) => s.set);
  const layout = useLayout((s) => s.state?.document);
  const { data: schools } = useDetectingSchools();
  const blocked = Object.keys(layout?.detectors ?? {}).length > 0;
  const wished = layout?.brief?.detecting;
  const metric = layout?.brief?.units === "metric";
  const [per, setPer] = useState<(typeof PER_BLOCK)[number]>(PER_BLOCK[(wished?.per_block ?? 1) - 1] ?? "one");
  const [gaps, setGaps] = useState<(typeof GAPS)[number]>(wished?.gaps ?? "one rail");
  const { data: now } = useDetection();
  const [chosen, setKind] = useState<(typeof KINDS)[number] | null>(null);
  const kind = chosen ?? now?.start_kind ?? "current transformer";
  const [channels, setChannels] = useState(String(wished?.channels ?? 8));
  const [spare, setSpare] = useState((wished?.spare ?? 0.1) * 100);
  const [first, setFirst] = useState(wished?.first_address ?? 1);
  const [shortest, setShortest] = useState<number | null>(wished?.shortest_block ?? null);
  const [stopping, setStopping] = useState<number | null>(null);
  const query = new URLSearchParams({
    revision: String(revision),
    per_block: String(PER_BLOCK.indexOf(per) + 1),
    gaps,
    kind,
    channels,
    spare: String(spare / 100),
    first_address: String(first),
  });
  if (shortest !== null) query.set("shortest", String(shortest));
  if (stopping !== null) query.set("stopping", String(stopping));
  const { shown, error, busy, doing, ask, forget } = useProposal<Blocking>("blocking", id, query.toString());
  const [making, setMaking] = useState(false);
  const off = useOff();
  useEffect(() => {
    set({ ghostInks: shown?.inks ?? [], ghostGaps: shown?.cuts ?? [] });
    return () => useBench.getState().set({ ghostInks: [], ghostGaps: [] });
  }, [shown, set]);
  const stop = layout?.brief?.signalling?.stopping ?? 800;
  return (
    <Fold title="Block it" open={!blocked}>
      {blocked ? null : <Wanted what="detection" path="detecting" />}
      {blocked ? (
        <p className="mb-2 text-mute text-xs">
          It is blocked. Single sections: step Track, tool Detector channel.{" "}
          <button type="button" className="act" onClick={() => void off.ask("detection-off")}>
            Take all detection off…
          </button>
        </p>
      ) : null}
      <form
        className="grid grid-cols-2 gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set({ look: "blocks" });
          ask();
        }}
      >
        <Choice label="Sections to a block" value={per} options={PER_BLOCK} onChange={setPer} />
        <Choice label="Gaps cut" value={gaps} options={GAPS} onChange={setGaps} />
        <Choice label="Detectors" value={kind} options={KINDS} onChange={setKind} />
        <Choice label="Channels to a board" value={channels} options={SIZES} onChange={setChannels} />
        <Typed
          label="Spare channels kept"
          kind="text"
          shown={`${+spare.toFixed(0)} %`}
          onTake={async (v) => {
            const share = Number(String(v).replace("%", "").replace(",", ".").trim());
            if (!(share >= 0 && share <= 90)) return "Between 0 and 90 %.";
            setSpare(share);
            return null;
          }}
        />
        <Whole least={1} label="First address" value={first} most={9999} onTake={setFirst} />
        <ShortestBlock value={shortest} metric={metric} follows="a train and its stop" onTake={setShortest} />
        <Typed
          label="A train stops within"
          kind="length"
          shown={lengthText(stopping ?? stop, metric)}
          onTake={async (v) => {
            if (typeof v !== "number") return "A length, such as 30 in.";
            setStopping(v);
            return null;
          }}
        />
        <button type="submit" className="btn-main col-span-2" disabled={busy || blocked}>
          {busy ? "Working it out…" : "Block it"}
        </button>
      </form>
      <p className="mt-1.5 text-[11.5px] text-mute">
        {schools?.kinds.find((k) => k.kind === kind)?.why} {schools?.per_block[PER_BLOCK.indexOf(per)]}{" "}
        {schools?.gaps[GAPS.indexOf(gaps)]} {schools?.order}
      </p>
      <Busy busy={busy} doing={doing} error={error} />
      {shown ? <Proposal blocking={shown} onMake={() => setMaking(true)} /> : null}
      {shown && making ? (
        <Preview
          title={`${shown.words.join(", ")}. Sensed wires are run home, one to a section; the other wire of every feeder stays where it is.`}
          decides={`${shown.words.join(", ")}.`}
          mend={shown.change}
          onClose={() => setMaking(false)}
          onMade={forget}
        />
      ) : null}
      {off.sheet}
    </Fold>
  );
}

/** A change the server works out for a button, previewed before it is made. */
export function useOff() {
  const { id, revision } = useWhere();
  const [change, setChange] = useState<Shape["MendShape"] | null>(null);
  const ask = async (route: string, more = "") => {
    const got = await fetch(`/api/layouts/${id}/${route}?revision=${revision}${more}`);
    const body = (await got.json()) as Shape["MendShape"] & { message?: string };
    if (got.ok) setChange(body);
    else useBench.getState().set({ note: body.message ?? "That cannot be done." });
  };
  const sheet = change ? (
    <Preview title="One change; Undo takes it back." mend={change} onClose={() => setChange(null)} />
  ) : null;
  return { ask, sheet };
}

function Proposal({ blocking, onMake }: { blocking: Blocking; onMake: () => void }) {
  return (
    <div className="mt-2.5 text-[12px]" data-testid="blocking">
      <ul className="list-disc pl-4">
        {blocking.words.map((w) => (
          <li key={w}>{w}</li>
        ))}
      </ul>
      <p className="mt-1 text-[11.5px] text-mute">{bound(blocking.bound_text)}</p>
      <details className="mt-1.5">
        <summary className="cursor-pointer text-xs">Every section, and why</summary>
        <ul className="mt-1 grid gap-1">
          {blocking.lots.map((x) => (
            <li key={x.name} className="rounded border border-line bg-paper px-1.5 py-1 text-[11.5px] leading-snug">
              <b>{x.name}</b> <span className="figure">{bound(x.length_text)}</span> · {x.district}
              {x.board ? ` · board ${x.board}` : ""}
              <br />
              <span className="text-mute">{bound(x.why)}</span>
            </li>
          ))}
        </ul>
      </details>
      <details className="mt-1">
        <summary className="cursor-pointer text-xs">Gaps to cut</summary>
        <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
          {blocking.cuts.map((c) => (
            <li key={c.words}>{bound(c.words)}</li>
          ))}
        </ul>
      </details>
      {blocking.blind.length ? (
        <details className="mt-1">
          <summary className="cursor-pointer text-xs">Left without a detector</summary>
          <ul className="mt-1 list-disc pl-4 text-[11.5px] text-mute">
            {blocking.blind.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </details>
      ) : null}
      <button type="button" className="btn-main mt-2 w-full" onClick={onMake}>
        Make it…
      </button>
    </div>
  );
}
