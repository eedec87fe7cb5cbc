import { useEffect, useState } from "react";
import { rightNow } from "../api/clock";

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
