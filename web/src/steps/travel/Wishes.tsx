import type { Shape } from "../../api/client";
import { Choice, Typed } from "../../parts/Typed";
import { fieldLength } from "../../parts/units";
import { useLayout } from "../../store/layout";
import { Fold } from "../track/Fold";

const EDGES = {
  none: "not said",
  top: "above the plan",
  right: "right of it",
  bottom: "below the plan",
  left: "left of it",
} as const;

const RAIL_ENDS = ["sliding joiners", "bridged by wire", "butted"] as const;

/** Where the public stands, and what the club wishes at joints. */
export function Wishes() {
  const brief = useLayout((s) => s.state?.document.brief);
  const edit = useLayout((s) => s.edit);
  const wishes: Partial<Shape["Travelling"]> = brief?.travelling ?? {};
  const metric = brief?.units === "metric";
  const put = (field: string, value: unknown, words: string) =>
    edit(words, [{ op: "add", path: "/brief/travelling", value: { ...wishes, [field]: value } }], true);
  return (
    <Fold title="In the hall" open={false}>
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="The public stands"
          value={wishes.public ?? "none"}
          options={Object.keys(EDGES) as (keyof typeof EDGES)[]}
          says={EDGES}
          onChange={(v) => void put("public", v === "none" ? null : v, `The public: ${EDGES[v]}`)}
        />
        <Typed
          label="Minutes for the proof"
          kind="text"
          shown={String(wishes.proof_minutes ?? 10)}
          onTake={async (v) => {
            const minutes = Number(String(v).replace(",", "."));
            if (!(minutes > 0 && minutes <= 120)) return "Over 0, up to 120 minutes.";
            return put("proof_minutes", minutes, `Proof in ${minutes} minutes`);
          }}
        />
        <Choice
          label="Rails at joints"
          value={wishes.rail_ends ?? "sliding joiners"}
          options={RAIL_ENDS}
          onChange={(v) => void put("rail_ends", v, `Rails at joints: ${v}`)}
        />
        <div className="col-span-2">
          <Typed
            label="A feeder on both sides of every joint, within"
            kind="length"
            bare={metric ? "mm" : "in"}
            shown={wishes.feeder_by_joint == null ? "" : fieldLength(wishes.feeder_by_joint, metric)}
            placeholder="no such wish"
            clearable
            onTake={(v, t) => put("feeder_by_joint", v, t ? `Feeders within ${t} of joints` : "No feeders by joints")}
          />
        </div>
      </div>
    </Fold>
  );
}
