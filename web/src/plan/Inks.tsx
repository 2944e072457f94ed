import type { Answers, Layout, Shape } from "../api/client";
import { useZones } from "../api/queries";
import { throwOn, useCabs } from "../steps/cabs/queries";
import { useBench } from "../store/bench";
import { Blocks, Moment } from "./Blocks";
import { Cabs } from "./Cabs";
import { Phase, Reversing } from "./Phase";
import { Rails } from "./Rails";
import { Zones } from "./Zones";

const NOTHING: never[] = [];

/** Track in the ink of the look that is chosen; plain while what the look needs is still worked out. */
export function Inks({
  answers,
  layout,
  moment,
  detection,
  rails,
  bright,
}: {
  answers: Answers;
  layout: Layout;
  moment: Shape["MomentShape"] | undefined;
  detection: Shape["DetectionShape"] | undefined;
  rails: Shape["RailsShape"] | undefined;
  bright: ReadonlySet<string>;
}) {
  const { look, bucket, ghostGaps, ghostInks, litRails, selected } = useBench();
  const { data: zones } = useZones(look === "zones");
  const { data: cabs } = useCabs(look === "cabs");
  if (look === "cabs" && cabs)
    return (
      <Cabs
        answers={answers}
        cabs={cabs}
        lit={bright}
        ghosts={ghostInks}
        ghostGaps={ghostGaps}
        onThrow={(s) => void throwOn(s)}
      />
    );
  if (look === "phase" && rails)
    return <Phase answers={answers} rails={rails} lit={bright} path={litRails} bucket={bucket} />;
  if (look === "zones" && rails)
    return (
      <Zones
        answers={answers}
        rails={rails}
        circuits={layout.circuits}
        lit={bright}
        wrong={zones?.wrong ?? NOTHING}
        ghosts={ghostInks}
        ghostGaps={ghostGaps}
      />
    );
  if (look === "blocks" && detection)
    return (
      <Blocks
        answers={answers}
        detection={detection}
        lit={bright}
        on={moment?.lit ?? NOTHING}
        ghosts={ghostInks}
        ghostGaps={ghostGaps}
      />
    );
  if (look === "signals" && detection)
    return (
      <Moment
        answers={answers}
        detection={detection}
        lit={bright}
        moment={moment}
        way={selected?.kind === "signal" ? moment?.shows[selected.id]?.legs : undefined}
      />
    );
  if (look === "reversing" && rails)
    return <Reversing answers={answers} rails={rails} lit={bright} ghosts={ghostGaps} />;
  return <Rails answers={answers} look={look === "volts" || look === "coin" ? look : "track"} lit={bright} />;
}
