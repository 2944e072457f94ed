import { memo, useEffect, useMemo, useRef } from "react";
import type { Answers, Shape } from "../api/client";
import { momentAt, type Moment as Stands, under, useEvening, whereIs } from "../store/evening";
import { useRailroad } from "../store/railroad";
import { along, slice } from "./geometry";
import { NearName } from "./Marks";

const place = (x: number, y: number) => ({ transform: `translate(${x}px,${y}px) scale(var(--px))` });
const w = (n: number) => ({ "--w": n }) as never;

/** How everything stands at the moment shown. It changes when something does, not at every frame. */
export function useStands(wanted = true): Stands | undefined {
  const kept = useRef<{ trace: unknown; t: number; stands: Stands } | null>(null);
  const trace = useEvening((s) => (wanted ? s.trace : null));
  // The number of changes up to now: as long as it stays, nothing is drawn anew.
  const count = useEvening((s) => {
    if (!wanted || !s.trace) return -1;
    const old = kept.current;
    const usable = old && old.trace === s.trace && old.t <= s.now ? old.stands : undefined;
    const stands = momentAt(s.trace, s.now, usable);
    kept.current = { trace: s.trace, t: s.now, stands };
    return stands.next;
  });
  return useMemo(
    () => (trace && count >= 0 && kept.current ? { ...kept.current.stands, next: count } : undefined),
    [trace, count],
  );
}

/** The moment shown, as the looks of the plan take it. */
export function useEveningMoment(wanted: boolean): Shape["MomentShape"] | undefined {
  const trace = useEvening((s) => (wanted ? s.trace : null));
  const stands = useStands(wanted);
  const told = useRailroad((s) => wanted && s.hello !== null);
  const lit = useRailroad((s) => s.lit);
  const heads = useRailroad((s) => s.heads);
  return useMemo(() => {
    if (told)
      return reported(
        lit.keys(),
        Object.entries(heads).map(([id, h]) => [id, h.shows, h.lights]),
      );
    if (!trace || !stands) return undefined;
    return reported(
      stands.lit,
      Object.entries(stands.heads).map(([id, shows]) => [id, shows, trace.opening.lights[id]?.[shows] ?? []]),
    );
  }, [trace, stands, told, lit, heads]);
}

/** Stretches that are lit and what heads show, as the looks of the plan take them. */
function reported(lit: Iterable<number>, heads: [string, string, string[]][]): Shape["MomentShape"] {
  const shows: Shape["MomentShape"]["shows"] = {};
  for (const [id, aspect, lights] of heads)
    shows[id] = { aspect, lights, means: "", reasons: [], dark: false, legs: [] };
  return { revision: 0, trains: [], stands: [], lit: [...lit], unseen: [], shows, promised: [], stopped: null };
}

/** Trains of a rehearsal, drawn frame by frame without asking React: a band over what each stands on, a nose in front. */
export const EveningTrains = memo(function EveningTrains({ answers }: { answers: Answers }) {
  const trace = useEvening((s) => s.trace);
  const about = useEvening((s) => s.about);
  const group = useRef<SVGGElement>(null);
  useEffect(() => {
    if (!trace) return;
    const draw = (now: number) => {
      const here = group.current;
      if (!here) return;
      trace.opening.trains.forEach((train, k) => {
        const one = here.children[k] as SVGGElement | undefined;
        const at = trace.courses[train.key] && whereIs(trace.courses[train.key] as never, now);
        if (!one || !at) return;
        const legs = under(at.spans, at.s - train.length, at.s);
        const d = legs
          .map(([track, a, b]) => {
            const drawn = answers.tracks[track];
            return drawn ? slice(drawn, Math.min(a, b), Math.min(Math.max(a, b), drawn.length)) : "";
          })
          .join("");
        one.children[0]?.setAttribute("d", d);
        one.children[1]?.setAttribute("d", d);
        const last = legs.at(-1);
        const drawn = last && answers.tracks[last[0]];
        if (last && drawn) {
          const [x, y] = along(drawn, last[2]);
          (one.children[2] as SVGGElement).style.transform = `translate(${x}px,${y}px) scale(var(--px))`;
        }
      });
    };
    draw(useEvening.getState().now);
    return useEvening.subscribe((s, before) => {
      if (s.now !== before.now || s.grown !== before.grown) draw(s.now);
    });
  }, [trace, answers]);
  const open = [...(useStands()?.open ?? [])];
  if (!trace) return null;
  const dark = open
    .flatMap((d) => trace.opening.under[d] ?? [])
    .map(([track, a, b]) => {
      const drawn = answers.tracks[track as string];
      return drawn ? slice(drawn, a as number, Math.min(b as number, drawn.length)) : "";
    })
    .join("");
  return (
    <>
      {dark ? (
        <>
          <path d={dark} fill="none" stroke="var(--paper)" className="rail" style={w(5)} />
          <path
            d={dark}
            fill="none"
            stroke="var(--oxide)"
            className="rail dashes"
            style={w(4)}
            data-testid="dark-track"
          />
        </>
      ) : null}
      <g ref={group} data-testid="evening-trains">
        {trace.opening.trains.map((t) => {
          const mine = about?.kind === "train" && about.id === t.key;
          return (
            // biome-ignore lint/a11y/useSemanticElements: a mark on the plan; the same is in the list beside it
            <g
              key={t.key}
              data-train={t.name}
              className="cursor-pointer"
              role="button"
              aria-label={`About ${t.name}`}
              tabIndex={-1}
              onClick={(event) => {
                event.stopPropagation();
                useEvening.setState({ about: { kind: "train", id: t.key } });
              }}
              onKeyDown={() => undefined}
            >
              <path
                fill="none"
                stroke={mine ? "var(--copper)" : "var(--strong)"}
                strokeLinecap="round"
                className="rail"
                style={w(9)}
              />
              <path
                fill="none"
                stroke={mine ? "var(--card)" : "var(--copper)"}
                strokeLinecap="round"
                className="rail"
                style={w(3)}
              />
              <g style={place(0, 0)}>
                <circle r="5.5" fill="var(--strong)" stroke="var(--copper)" strokeWidth="2" />
                <NearName words={t.name} />
              </g>
            </g>
          );
        })}
      </g>
    </>
  );
});

const FOLLOWS_MS = 120;

/** Calls back with where the train that is followed is, some times a second while the moment moves. Answers how to stop. */
export function followed(go: (x: number, y: number) => void, tracks: Answers["tracks"]): () => void {
  let last = 0;
  return useEvening.subscribe((s, before) => {
    if (!s.follow || !s.trace || (s.now === before.now && s.follow === before.follow)) return;
    const time = performance.now();
    if (time - last < FOLLOWS_MS) return;
    last = time;
    const course = s.trace.courses[s.follow];
    const at = course && whereIs(course, s.now);
    const leg = at ? under(at.spans, at.s - 1, at.s).at(-1) : undefined;
    const drawn = leg && tracks[leg[0]];
    if (leg && drawn) go(...along(drawn, leg[2]));
  });
}
