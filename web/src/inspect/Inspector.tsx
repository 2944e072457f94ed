import type { Layout } from "../api/client";
import { useBench } from "../store/bench";
import { mapOf } from "../store/bench/chosen";
import { useLayout } from "../store/layout";
import { Board } from "./Board";
import { Detector } from "./Detector";
import { Device } from "./Device";
import { Driver } from "./Driver";
import { Feeder } from "./Feeder";
import { Gap } from "./Gap";
import { Load } from "./Load";
import { Node } from "./Node";
import { Obstacle } from "./Obstacle";
import { Plug } from "./Plug";
import { Run } from "./Run";
import { Section } from "./Section";
import { Signal } from "./Signal";
import { Braking, Isolated } from "./Stretch";
import { Terminal } from "./Terminal";
import { Track } from "./Track";

/** The thing selected on the plan, with what can be changed about it here. */
export function Inspector() {
  const selected = useBench((s) => s.selected);
  const layout = useLayout((s) => s.state?.document);
  if (!selected || !layout) return null;
  const card = {
    run: Run,
    feeder: Feeder,
    track: Track,
    device: Device,
    terminal: Terminal,
    gap: Gap,
    board: Board,
    obstacle: Obstacle,
    node: Node,
    section: Section,
    load: Load,
    plug: Plug,
    signal: Signal,
    detector: Detector,
    driver: Driver,
    braking: Braking,
    isolated: Isolated,
  }[selected.kind];
  if (!card || !exists(layout, selected.kind, selected.id)) return null;
  const Card = card;
  return (
    <div className="max-h-[52%] shrink-0 overflow-y-auto border-line border-b bg-paper p-3" data-testid="inspector">
      <Card id={selected.id} layout={layout} />
    </div>
  );
}

function exists(layout: Layout, kind: string, id: string) {
  const map = layout[mapOf(kind) as keyof Layout] as Record<string, unknown> | undefined;
  return map?.[id] !== undefined;
}
