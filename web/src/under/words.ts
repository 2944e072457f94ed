import { momentOf } from "../parts/when";
import type { Done, Task } from "./store";

/** What a task is called, what its big button says, and what is said of it once done. */
export const SAYS: Record<Task["kind"], { name: string; all: string; half: string | null; done: string }> = {
  gap: { name: "Gap", all: "Cut and metered", half: null, done: "Cut and metered" },
  terminal: { name: "Terminal", all: "Mounted", half: null, done: "Mounted" },
  run: { name: "Bus", all: "Wired and tested", half: "Wired only", done: "Wired and tested" },
  feeder: { name: "Feeder", all: "Wired and tested", half: "Wired only", done: "Wired and tested" },
  control: { name: "Cable", all: "Wired and tested", half: "Wired only", done: "Wired and tested" },
  plug: { name: "Plug", all: "Fitted and tested", half: "Fitted only", done: "Fitted and tested" },
  switch: { name: "At the bench", all: "Wired and tested", half: "Wired only", done: "Wired and tested" },
  device: { name: "Device", all: "Works, and finished", half: "Tried, not finished", done: "Works, and finished" },
  check: { name: "Before the next board", all: "It holds", half: null, done: "It holds" },
};

export const TROUBLES: Record<Task["kind"], string[]> = {
  gap: ["Not open", "Cannot reach it", "Something is in the way"],
  terminal: ["Something is in the way", "None at hand", "Not where the plan has it"],
  run: ["No reading end to end", "Reads short to the other wire", "Too short", "Something is in the way"],
  feeder: ["No reading to the rail", "Reads short", "Wrong rail", "Too short", "Cannot reach it"],
  control: ["No reading end to end", "Two wires read short", "Too short", "Cannot reach it"],
  plug: ["Pins change over", "None at hand", "Does not hold"],
  switch: ["Closed where it should be open", "Open where it should be closed", "Polarity changes over", "None at hand"],
  device: ["Does not answer", "Answers as another number", "Leaflet is wrong: see the note", "None at hand"],
  check: ["Does not hold", "Could not meter it"],
};

export function saidOf(task: Task, done: Done): string {
  const what =
    done.state === "trouble"
      ? "Trouble"
      : done.state === "wired"
        ? (SAYS[task.kind].half ?? SAYS[task.kind].done)
        : SAYS[task.kind].done;
  return `${what}${done.who ? `, ${done.who}` : ""}, ${momentOf(done.done)}${done.reading ? `; read ${done.reading}` : ""}`;
}
