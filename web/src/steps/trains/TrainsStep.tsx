import { Findings } from "../../findings/Findings";
import { Budget } from "./Budget";
import { Kinds } from "./Kinds";
import { Roster } from "./Roster";
import { Scenes } from "./Scenes";
import { Trains } from "./Trains";

/** Who runs: kinds of locomotive and what they draw, trains made of them, and scenes of who is where at once. */
export function TrainsStep() {
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto grid max-w-[1240px] gap-4 p-4 xl:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <div className="grid min-w-0 content-start gap-4">
          <Kinds />
          <Trains />
        </div>
        <div className="grid min-w-0 content-start gap-4">
          <Budget />
          <Findings step="trains" />
        </div>
        <div className="min-w-0 xl:col-span-2">
          <Roster />
        </div>
        <div className="min-w-0 xl:col-span-2">
          <Scenes />
        </div>
      </div>
    </div>
  );
}
