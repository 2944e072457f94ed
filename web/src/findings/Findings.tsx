import { useEffect, useRef, useState } from "react";
import type { Finding } from "../api/client";
import { useFindings } from "../api/queries";
import { Preview } from "../findings/Preview";
import { bound } from "../parts/bound";
import { CopyLink } from "../parts/CopyLink";
import { linkHere } from "../shell/address";
import { type Kind, type Step, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { Accept } from "./Accept";

const GROUPS = [
  ["must", "Must, before power goes on", "rotate-45 bg-oxide"],
  ["should", "Should, or it will bite later", "rounded-full bg-amber"],
  ["look", "Worth a look", "bg-slate"],
] as const;

/** To settle: findings as sentences, the most serious first. */
/** With a step given, only those settled there; where there are none, what `none` says, or nothing at all. */
export function Findings({ step, but, none }: { step?: Step; but?: string; none?: string }) {
  const { data, isPlaceholderData } = useFindings();
  if (!data) return <p className="p-3 text-mute">Working it out…</p>;
  const mine = step ? data.filter((f) => f.steps.includes(step) && f.rule !== but) : data;
  if (step && !mine.length && !none) return null;
  const open = mine.filter((f) => !f.accepted);
  const accepted = mine.filter((f) => f.accepted);
  const counts = GROUPS.map(([s]) => [open.filter((f) => f.severity === s).length, s] as const).filter(([n]) => n);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-3" data-testid="findings" aria-busy={isPlaceholderData}>
      <h2 className="mb-2 flex items-baseline justify-between font-bold text-sm">
        To settle{" "}
        <span className="font-medium text-mute text-xs">
          {counts.map(([n, s]) => `${n} ${s}`).join(" · ") || "nothing"}
        </span>
      </h2>
      {open.length === 0 && (!step || none) ? (
        <p className="rounded-lg border border-line bg-paper p-2.5 text-xs">
          {none ??
            "Nothing to settle in this scene. Meter each feeder pair and do the coin test before you believe it."}
        </p>
      ) : null}
      {GROUPS.map(([severity, title, mark]) => {
        const group = open.filter((f) => f.severity === severity);
        return group.length ? (
          <section key={severity} aria-label={title}>
            <h3 className="mt-2.5 mb-1.5 flex items-center gap-2 font-bold text-[11px] text-mute">
              <i aria-hidden="true" className={`block size-[9px] ${mark}`} /> {title}
            </h3>
            {group.map((f) => (
              <Card key={f.key} finding={f} />
            ))}
          </section>
        ) : null;
      })}
      {accepted.length ? (
        <section aria-label="Accepted">
          <h3 className="mt-3 mb-1.5 font-bold text-[11px] text-mute">Accepted, with a reason</h3>
          {accepted.map((f) => (
            <Card key={f.key} finding={f} />
          ))}
        </section>
      ) : null}
    </div>
  );
}

function Card({ finding }: { finding: Finding }) {
  const { finding: open, show, set } = useBench();
  const edit = useLayout((s) => s.edit);
  const [dialog, setDialog] = useState<"accept" | number | null>(null);
  const here = open === finding.key;
  const card = useRef<HTMLElement>(null);
  useEffect(() => {
    if (here) card.current?.scrollIntoView({ block: "nearest" });
  }, [here]);
  const goThere = () => {
    const { kind, id, track, at } = finding.place;
    show({ kind: kind as Kind, id }, track && at !== null ? { track, at } : null, [id, ...finding.shows]);
    set({ finding: finding.key, litRails: finding.rails, ...(finding.rails.length ? { look: "phase" as const } : {}) });
  };
  const mend = typeof dialog === "number" ? finding.mends[dialog] : undefined;
  return (
    <article
      ref={card}
      className={`mb-1.5 rounded-[9px] border bg-paper px-2.5 py-2 ${here ? "border-copper" : "border-line"}`}
      data-finding={finding.key}
    >
      <h4 className="font-semibold text-[12.8px] leading-snug">{bound(finding.title)}</h4>
      <p className="mt-0.5 text-[11.8px] text-mute leading-snug">
        {finding.accepted ? `Accepted: ${finding.accepted}` : finding.why}
      </p>
      {here ? (
        <>
          <dl className="mt-1.5 grid grid-cols-[auto_1fr] gap-x-3 text-[11.5px]">
            {finding.figures.map(({ name, value }) => (
              <div key={name} className="contents">
                <dt className="text-mute">{name}</dt>
                <dd className="figure">{value}</dd>
              </div>
            ))}
          </dl>
          <p className="mt-1 text-[11.8px] leading-snug">{finding.mend}</p>
          <p className="mt-0.5 text-[10.8px] text-mute">
            Rule: {finding.rule}; {finding.source}
          </p>
        </>
      ) : null}
      <div className="mt-1.5 flex flex-wrap gap-x-3 gap-y-0.5">
        <button type="button" className="act" onClick={goThere} aria-label={`Show: ${finding.title}`}>
          Show
        </button>
        {finding.mends.map((m, k) => (
          <button key={m.label} type="button" className="act" onClick={() => setDialog(k)}>
            {m.label}…
          </button>
        ))}
        {here ? <CopyLink small link={() => linkHere({ finding: finding.key })} /> : null}
        {finding.accepted ? (
          <button
            type="button"
            className="act"
            onClick={() =>
              void edit("Take a finding back", [
                { op: "remove", path: `/accepted/${finding.key.replaceAll("~", "~0").replaceAll("/", "~1")}` },
              ])
            }
          >
            Take back
          </button>
        ) : here ? (
          <button type="button" className="act" onClick={() => setDialog("accept")}>
            Accept…
          </button>
        ) : null}
      </div>
      {mend ? <Preview title={finding.title} mend={mend} onClose={() => setDialog(null)} /> : null}
      {dialog === "accept" ? <Accept finding={finding} onClose={() => setDialog(null)} /> : null}
    </article>
  );
}
