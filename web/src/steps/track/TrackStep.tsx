import { useEffect } from "react";
import { useAnswers } from "../../api/queries";
import { Findings } from "../../findings/Findings";
import { Inspector } from "../../inspect/Inspector";
import { Looks } from "../../plan/Looks";
import { Plan } from "../../plan/Plan";
import { useBench } from "../../store/bench";
import { BackdropCard } from "./BackdropCard";
import { BridgeAsked } from "./BridgeAsked";
import { Chosen } from "./Chosen";
import { DeadTrack } from "./DeadTrack";
import { Drawings } from "./Drawings";
import { NewTrack } from "./NewTrack";
import { ToolBox } from "./ToolBox";

/** Drawing the railroad: tools at the left, the plan, and beside it what is chosen. */
export function TrackStep() {
  const { tool, note, chosen } = useBench();
  useEffect(() => {
    return () => useBench.getState().set({ tool: "select", note: null, measure: [] });
  }, []);
  return (
    <div className="grid h-full min-h-0 grid-cols-[118px_minmax(0,1fr)_280px] xl:grid-cols-[124px_minmax(0,1fr)_310px]">
      <ToolBox />
      <div className="relative min-h-0 min-w-0">
        <Looks />
        <Plan />
        <Hint key={tool} note={note} />
      </div>
      <aside aria-label="Track" className="flex min-h-0 flex-col overflow-y-auto border-line border-l bg-card">
        <BridgeAsked />
        {chosen.length > 1 ? <Chosen /> : <Inspector />}
        <div className="max-h-[46%] shrink-0 overflow-y-auto border-line border-b empty:hidden">
          <Findings step="track" />
        </div>
        <NewTrack />
        <BackdropCard />
        <Drawings />
        <DeadTrack />
      </aside>
    </div>
  );
}

const WORDS: Record<string, string> = {
  select: "Click to choose, Shift for more or a box. Drag ends, bends and boards; arrows nudge; Delete takes away.",
  throw: "Click a turnout to set it; the look Phase shows which rails are live then.",
  corners: "Click the four corners of the sheet or board in the photo, in any order; then type its size.",
  "leave out": "Click two corners of a box that is no plan: a title, a key, a logo.",
  "only here": "Click two corners of the part to trace.",
  scale: "Click two places on the picture whose distance you know; then type the distance beside the plan.",
};

/** What the tool in hand wants next, and what the last act had to say. */
function Hint({ note }: { note: string | null }) {
  const { tool, hint } = useBench();
  const { data } = useAnswers();
  const empty = data && Object.keys(data.tracks).length === 0;
  const start = tool === "select" && empty ? "Nothing is drawn yet. Press D and click along the first track." : null;
  return (
    <div className="pointer-events-none absolute bottom-3 left-3 right-16 flex flex-col items-start gap-1.5">
      {note ? (
        <p role="status" className="max-w-xl rounded-md border border-amber bg-card px-2.5 py-1.5 text-xs shadow-sm">
          {note}
        </p>
      ) : null}
      <p className="max-w-xl rounded-md bg-paper/90 px-2 py-1 text-[11.5px] text-mute" data-testid="hint">
        {start ?? WORDS[tool] ?? hint}
      </p>
    </div>
  );
}
