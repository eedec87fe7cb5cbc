import { useEffect, useState } from "react";
import { kept } from "../api/kept";

const KEY = "hydrarch.clock";

let off = Number(kept.get(KEY) ?? 0) || 0;
/** By how much (s) this device's clock is to be put right, as the server told it: clocks that run are shown by that. */
export const putClockRight = (seconds: number): void => {
  off = seconds;
  if (seconds) kept.put(KEY, String(seconds));
  else kept.drop(KEY);
};

/** The time now, s since 1970, by this device's clock put right. */
export const rightNow = () => Date.now() / 1000 + off;

/** The time in seconds since 1970, ticking while something is shown that waits for it. */
export function useNow(ticking: boolean): number {
  const [now, setNow] = useState(rightNow);
  useEffect(() => {
    if (!ticking) return;
    const tick = () => setNow(rightNow());
    tick();
    const timer = setInterval(tick, 1000);
    return () => clearInterval(timer);
  }, [ticking]);
  return now;
}
