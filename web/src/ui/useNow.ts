import { useEffect, useState } from "react";

let off = 0;
/** By how much (s) this device's clock is to be put right, as the server told it: clocks that run are shown by that. */
export const putClockRight = (seconds: number): void => {
  off = seconds;
};

const right = () => Date.now() / 1000 + off;

/** The time in seconds since 1970, ticking while something is shown that waits for it. */
export function useNow(ticking: boolean): number {
  const [now, setNow] = useState(right);
  useEffect(() => {
    if (!ticking) return;
    const tick = () => setNow(right());
    tick();
    const timer = setInterval(tick, 1000);
    return () => clearInterval(timer);
  }, [ticking]);
  return now;
}
