import { Segmented } from "../parts/Segmented";
import { Sheet } from "../parts/Sheet";
import { useBench } from "../store/bench";
import { ClubFile } from "./ClubFile";
import { Helpers } from "./Helpers";

const LEAD = {
  file: "All layouts, their whole history and the work done are one file on this machine.",
  helpers: "Who may come in from the club’s network, under the boards with a phone.",
};

/** What belongs to the club rather than to one layout: its file, and the people who come in. */
export function Club({ side }: { side: "file" | "helpers" }) {
  const set = useBench((s) => s.set);
  return (
    <Sheet title="The club" lead={LEAD[side]} onClose={() => set({ club: null })}>
      <div className="mt-3">
        <Segmented
          label="Side"
          value={side}
          options={[
            ["file", "Club file"],
            ["helpers", "Helpers"],
          ]}
          onChange={(club) => set({ club })}
        />
      </div>
      {side === "file" ? <ClubFile /> : <Helpers />}
    </Sheet>
  );
}
