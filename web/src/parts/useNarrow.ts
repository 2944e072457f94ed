import { useSyncExternalStore } from "react";

const NARROW = "(max-width: 640px)";
const watch = (changed: () => void) => {
  const query = matchMedia(NARROW);
  query.addEventListener("change", changed);
  return () => query.removeEventListener("change", changed);
};

/** Whether the window is a phone's, held upright. */
export const useNarrow = () => useSyncExternalStore(watch, () => matchMedia(NARROW).matches);
