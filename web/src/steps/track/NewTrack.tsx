import { CODES, USES } from "../../parts/choices";
import { Choice, Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { LayByNumbers } from "./ByNumbers";
import { Fold } from "./Fold";

const FROGS = ["live", "dead", "routing"] as const;
const FROG_WORDS = { live: "live frog", dead: "dead frog", routing: "routes power" } as const;
const NAMES = FROGS.map((f) => FROG_WORDS[f]);

/** What the next track drawn is made of. */
export function NewTrack() {
  const { like, frog, set } = useBench();
  const metric = useLayout((s) => s.state?.document.brief?.units === "metric");
  const every = like.joiner_every;
  return (
    <Fold title="New track is">
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Use"
          value={like.use as (typeof USES)[number]}
          options={USES}
          onChange={(use) => set({ like: { ...like, use } })}
        />
        <Typed
          label="Rail code"
          kind="text"
          shown={String(like.code)}
          options={CODES}
          onTake={async (v) => {
            const code = Number(v);
            if (!Number.isInteger(code) || code < 25 || code > 400) return "A rail code is a whole number, 25 to 400.";
            set({ like: { ...like, code } });
            return null;
          }}
        />
        <Typed
          label="A joiner every"
          kind="length"
          bare={metric ? "mm" : "in"}
          shown={every === null ? "" : fieldLength(every, metric)}
          placeholder="none"
          clearable
          onTake={async (v) => {
            set({ like: { ...like, joiner_every: typeof v === "number" ? v : null } });
            return null;
          }}
        />
        <Choice
          label="Turnouts have a"
          value={FROG_WORDS[frog]}
          options={NAMES}
          onChange={(words) => set({ frog: FROGS[NAMES.indexOf(words)] ?? "live" })}
        />
      </div>
      <LayByNumbers />
    </Fold>
  );
}
