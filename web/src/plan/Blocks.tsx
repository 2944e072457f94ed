import { memo, useMemo } from "react";
import type { Answers, Shape } from "../api/client";
import { litPath, pathOf, slice } from "./geometry";
import { type Label, round } from "./labels";
import type { Placed } from "./useLabels";

type Detection = Shape["DetectionShape"];
const w = (n: number) => ({ "--w": n }) as never;
const place = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });

/** The drawn path of every section, by its number. */
function useSections(answers: Answers, detection: Detection) {
  return useMemo(() => {
    const found: Record<number, string> = {};
    for (const p of detection.pieces) {
      const drawn = answers.tracks[p.track];
      if (drawn) found[p.section] = (found[p.section] ?? "") + slice(drawn, p.start, Math.min(p.end, drawn.length));
    }
    return found;
  }, [answers, detection]);
}

/** Track inked by detection section, each with its name and the address it reports as. */
export const Blocks = memo(function Blocks({
  answers,
  detection,
  lit,
  on,
  ghosts,
  ghostGaps,
}: {
  answers: Answers;
  detection: Detection;
  lit: ReadonlySet<string>;
  /** Sections that the trains on the plan light. */
  on: number[];
  ghosts: { track: string; start: number; end: number; ink: string }[];
  ghostGaps: { x: number; y: number }[];
}) {
  const paths = useSections(answers, detection);
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const proposed = useMemo(() => {
    const found: Record<string, string> = {};
    for (const g of ghosts) {
      const drawn = answers.tracks[g.track];
      if (drawn) found[g.ink] = (found[g.ink] ?? "") + slice(drawn, g.start, Math.min(g.end, drawn.length));
    }
    return Object.entries(found);
  }, [answers, ghosts]);
  const bright = litPath(answers.tracks, lit);
  const seen = detection.sections.filter((s) => s.board !== null);
  const dark = detection.sections.filter((s) => s.board === null);
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-blocks">
      {bright ? <path d={bright} stroke="var(--slate)" opacity="0.45" className="rail" style={w(13)} /> : null}
      {on.map((n) => (
        <path key={n} d={paths[n]} stroke="var(--amber)" className="rail" style={w(11)} data-lit={n} />
      ))}
      <path d={all} stroke="var(--rail)" className="rail" style={w(5.4)} />
      <path d={dark.map((s) => paths[s.number] ?? "").join("")} stroke="var(--paper)" className="rail" style={w(3.8)} />
      <path
        d={dark.map((s) => paths[s.number] ?? "").join("")}
        stroke="var(--dead)"
        className="rail dashes"
        style={w(3.1)}
      />
      {seen.map((s) => (
        <path key={s.number} d={paths[s.number]} stroke={s.ink} className="rail" style={w(3.8)} data-section={s.name} />
      ))}
      {proposed.map(([ink, path]) => (
        <path key={ink} d={path} stroke={ink} className="rail" style={w(5.4)} data-proposed={ink} />
      ))}
      {ghostGaps.map((g) => (
        <g key={`${g.x},${g.y}`} style={place(g.x, g.y)}>
          <circle r="5" fill="var(--card)" stroke="var(--ink)" strokeWidth="1.3" />
          <path d="M-1.6-2.8v5.6M1.6-2.8v5.6" stroke="var(--ink)" strokeWidth="1.4" />
        </g>
      ))}
    </g>
  );
});

type Chip = {
  key: string;
  x: number;
  y: number;
  text: string;
  name: string;
  ink: string;
  width: number;
  length: number;
};

/** Chips along the track: the section's name and its address. Parts behind one channel share one chip. */
function chipsOf(detection: Detection): Chip[] {
  const told = new Set<string>();
  const found: Chip[] = [];
  for (const s of [...detection.sections].sort((a, b) => b.length - a.length)) {
    const key = `block:${s.board}.${s.channel}`;
    if (s.board === null || told.has(key)) continue;
    told.add(key);
    const text = `${s.name.replace(/^Points |, part \d+$/g, "")} · ${s.address}`;
    found.push({
      key,
      x: s.x,
      y: s.y,
      text,
      name: s.name,
      ink: s.ink,
      width: text.length * 5.5 + 10,
      length: s.length,
    });
  }
  return found;
}

/** Chips as labels: where they would lie on each other the longer section keeps its own, and the rest show as one comes nearer. */
export function useBlockLabels(detection: Detection | undefined): Label[] {
  return useMemo(
    () =>
      (detection ? chipsOf(detection) : []).map((c) => ({
        key: c.key,
        width: c.width,
        height: 15,
        weight: 10 + c.length,
        stands: [{ x: c.x, y: c.y, dx: -c.width / 2, dy: -8 }, ...round(c.x, c.y, c.width, 15, 7)],
      })),
    [detection],
  );
}

export const Chips = memo(function Chips({ detection, labels }: { detection: Detection; labels: Placed }) {
  const chips = useMemo(() => chipsOf(detection), [detection]).flatMap((chip) => {
    const stand = labels.get(chip.key);
    return stand ? [{ ...chip, stand }] : [];
  });
  return (
    <g pointerEvents="none">
      {chips.map((c) => (
        <g key={c.key} style={place(c.x, c.y)} data-chip={c.name}>
          <g transform={`translate(${c.stand.dx} ${c.stand.dy})`} data-label={c.key}>
            <rect width={c.width} height="15" rx="3" fill="var(--card)" stroke={c.ink} strokeWidth="1.2" />
            <text x={c.width / 2} y="10.8" textAnchor="middle" fontSize="9.6" className="figure" fill="var(--ink)">
              {c.text}
            </text>
          </g>
        </g>
      ))}
    </g>
  );
});

/** Track at one moment: what is occupied, where a train stands unseen, and the way a chosen signal stands for. */
export const Moment = memo(function Moment({
  answers,
  detection,
  lit,
  moment,
  way,
}: {
  answers: Answers;
  detection: Detection;
  lit: ReadonlySet<string>;
  moment: Shape["MomentShape"] | undefined;
  way: Shape["LegShape"][] | undefined;
}) {
  const paths = useSections(answers, detection);
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const led = (way ?? [])
    .map((leg) => {
      const drawn = answers.tracks[leg.track];
      return drawn ? slice(drawn, leg.start, Math.min(leg.end, drawn.length)) : "";
    })
    .join("");
  const bright = litPath(answers.tracks, lit);
  const seen = new Set(detection.sections.filter((s) => s.board !== null).map((s) => s.number));
  return (
    <g fill="none" strokeLinejoin="round" data-testid="rails-signals">
      {bright ? <path d={bright} stroke="var(--slate)" opacity="0.4" className="rail" style={w(13)} /> : null}
      {led ? (
        <path d={led} stroke="var(--copper)" opacity="0.55" className="rail" style={w(13)} data-testid="way" />
      ) : null}
      <path d={all} stroke="var(--rail)" className="rail" style={w(5)} />
      {detection.sections.map((s) => (
        <path
          key={s.number}
          d={paths[s.number]}
          stroke={seen.has(s.number) ? "var(--plain)" : "var(--paper)"}
          className={`rail ${seen.has(s.number) ? "" : "dashes"}`}
          style={w(3.1)}
        />
      ))}
      {moment?.lit.map((n) => (
        <path key={n} d={paths[n]} stroke="var(--amber)" className="rail" style={w(5)} data-lit={n} />
      ))}
      {moment?.unseen.map((n) => (
        <path key={n} d={paths[n]} stroke="var(--oxide)" className="rail dashes" style={w(5)} data-unseen={n} />
      ))}
    </g>
  );
});
