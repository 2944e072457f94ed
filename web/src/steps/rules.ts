/** The rules each step is about, for its own list and its tap on the bus. */
export const TRACK_RULES = [
  "rails joined through turnouts",
  "power-routing turnout fed from its frog",
  "dead in some setting",
  "gap that parts nothing",
  "section anchors",
  "frogs",
];
export const REVERSE_RULES = [
  "train comes back on itself",
  "reversing section not cut off",
  "reversing section too short",
  "reversing sections touch",
  "feeder fights a reverser",
  "feeder swapped",
  "phases meet at a gap",
  "reverser with nothing to do",
];

export const ZONE_RULES = [
  "feeder on another circuit",
  "amps asked",
  "opens too late",
  "breaker below booster",
  "coin test",
  "rails joined through turnouts",
];
