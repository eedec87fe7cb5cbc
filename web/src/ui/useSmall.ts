import { useSyncExternalStore } from "react";

const SMALL = "(max-width: 767px), (max-height: 500px)";
const query = () => window.matchMedia(SMALL);

const listen = (changed: () => void) => {
  const found = query();
  found.addEventListener("change", changed);
  return () => found.removeEventListener("change", changed);
};

/** Whether the screen is a phone's, upright or on its side, or a desk's enlarged to as much: the style `small:` as a value. */
export const useSmall = (): boolean => useSyncExternalStore(listen, () => query().matches);
