import { memo, useMemo } from "react";
import type { Answers } from "../api/client";
import type { Look } from "../store/bench";
import { litPath, pathOf } from "./geometry";
import { inkTracks } from "./ink";

type Props = { answers: Answers; look: Look; lit: ReadonlySet<string> };

/** Track: two rails with the look's ink between them. Dead track is broken grey; beyond the house rule it is barred. */
export const Rails = memo(function Rails({ answers, look, lit }: Props) {
  const { inked, dead, beyond } = useMemo(() => inkTracks(answers, look), [answers, look]);
  const all = useMemo(() => Object.values(answers.tracks).map(pathOf).join(""), [answers]);
  const bright = litPath(answers.tracks, lit);
  return (
    <g fill="none" strokeLinecap="round" strokeLinejoin="round" data-testid={`rails-${look}`}>
      {bright ? (
        <path d={bright} stroke="var(--amber)" opacity="0.6" className="rail" style={{ "--w": 12 } as never} />
      ) : null}
      <path d={all} stroke="var(--rail)" className="rail" style={{ "--w": 5 } as never} />
      {inked.map((i) => (
        <path
          key={i.colour}
          d={i.path}
          stroke={i.colour}
          strokeLinecap="butt"
          className="rail"
          style={{ "--w": 3.1 } as never}
        />
      ))}
      {dead ? (
        <>
          <path d={dead} stroke="var(--paper)" className="rail" style={{ "--w": 3.1 } as never} />
          <path
            d={dead}
            stroke="var(--dead)"
            className="rail dashes"
            style={{ "--w": 3.1 } as never}
            strokeLinecap="butt"
          />
        </>
      ) : null}
      {beyond ? (
        <path
          d={beyond}
          stroke="var(--paper)"
          className="rail bars"
          style={{ "--w": 3.1 } as never}
          strokeLinecap="butt"
          opacity="0.75"
        />
      ) : null}
    </g>
  );
});
