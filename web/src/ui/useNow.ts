import { useEffect, useState } from "react";

/** The time in seconds since 1970, ticking while something is shown that waits for it. */
export function useNow(ticking: boolean): number {
  const [now, setNow] = useState(() => Date.now() / 1000);
  useEffect(() => {
    if (!ticking) return;
    const tick = () => setNow(Date.now() / 1000);
    tick();
    const timer = setInterval(tick, 1000);
    return () => clearInterval(timer);
  }, [ticking]);
  return now;
}
