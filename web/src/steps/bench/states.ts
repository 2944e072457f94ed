import type { Proof } from "../../store/bench/proposed";
import type { Test } from "./queries";

/** How a test stands, in words and as the mark on the plan. */
export const SAYS: Record<Test["state"], string> = {
  open: "not done",
  sound: "sound",
  bad: "not sound",
  unsure: "settles nothing",
  changed: "changed since",
  due: "due again",
};
export const MARK: Record<Test["state"], Proof["state"]> = {
  open: "open",
  sound: "sound",
  bad: "bad",
  unsure: "unsure",
  changed: "unsure",
  due: "unsure",
};
export const TONE: Record<Test["state"], string> = {
  open: "text-mute",
  sound: "text-verd",
  bad: "text-oxide font-semibold",
  unsure: "text-mute",
  changed: "text-oxide",
  due: "text-oxide",
};

export const minutes = (m: number) => {
  const whole = Math.round(m);
  return whole < 90 ? `${whole} min` : `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, "0")}`;
};
