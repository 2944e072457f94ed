import type { Step } from "../store/bench";

type Named = { key: Exclude<Step, "table" | "sums">; name: string; purpose: string };

/** The steps as they are called and what each is for, in the order the work is best done. */
export const STEP_NAMES: readonly Named[] = [
  {
    key: "brief",
    name: "Brief",
    purpose: "What was settled first: scale, control, colours, and the house rules that every check goes by.",
  },
  {
    key: "track",
    name: "Track",
    purpose: "Draw or take in the railroad to scale; everything else is worked out from its rails.",
  },
  {
    key: "reverse",
    name: "Reverse",
    purpose: "Where a train comes back on itself its rails swap sides: gap such places before any wire is laid.",
  },
  {
    key: "trains",
    name: "Trains",
    purpose: "What runs, what it draws and where it roams: amps decide boosters, breakers and wire.",
  },
  {
    key: "zones",
    name: "Zones",
    purpose: "Part the railroad into districts, so that one short stops one district and no booster is asked too much.",
  },
  {
    key: "cabs",
    name: "Cabs",
    purpose: "Who drives what: cabs and transformers, the switches that choose between them, and the panels behind.",
  },
  {
    key: "detect",
    name: "Detect",
    purpose: "Cut blocks and give each a detector channel, so that signals and operators know who is where.",
  },
  {
    key: "signal",
    name: "Signal",
    purpose: "Signals where trains must be told apart, with every route proved before anything is cut.",
  },
  {
    key: "wire",
    name: "Wire",
    purpose: "Lay, size and check the copper: volts at every wheel, and every short opening its breaker.",
  },
  {
    key: "travel",
    name: "Travel",
    purpose: "Boards that lift out: a connector for every wire over a joint, the list to set up by, the way back.",
  },
  {
    key: "rehearse",
    name: "Rehearse",
    purpose:
      "Run the evening on the plan before a wire is cut: what trips, who waits for whom, and what would mend it.",
  },
  {
    key: "book",
    name: "Book",
    purpose: "The wire book to build from: cut lists, labels, pages for every board, and the work done so far.",
  },
  {
    key: "bench",
    name: "Bench",
    purpose:
      "Prove the copper by meter, keep the readings, let them say which joint is bad, and find faults when it is dark.",
  },
];
