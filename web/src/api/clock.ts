import { kept } from "./kept";

/** The time by this device's clock put right by what the server told of it. */

const KEY = "hydrarch.clock";
const HEARD = "hydrarch.clock-heard";

let off = Number(kept.get(KEY) ?? 0) || 0;
/** By how much (s) this device's clock is to be put right, as the server told it: clocks that run are shown by that. */
export const putClockRight = (seconds: number): void => {
  off = seconds;
  if (seconds) kept.put(KEY, String(seconds));
  else kept.drop(KEY);
};

let known = kept.get(HEARD) !== null;

/** By how much (s) this device knows its clock to be wrong; null where it never heard the server's. */
export const clockOff = (): number | null => (known ? off : null);

const SLACK = 30;

/** The server's clock in an answer that it made just now (never one that was kept), asked for at `sent` (ms). */
export function heardClock(answer: Response, sent: number): void {
  const told = Date.parse(answer.headers.get("Date") ?? "");
  if (Number.isNaN(told)) return;
  const here = (sent + Date.now()) / 2;
  const wrong = (told - here) / 1000;
  if (!known) kept.put(HEARD, "1");
  known = true;
  if (Math.abs(wrong - off) > SLACK) putClockRight(Math.abs(wrong) > SLACK ? wrong : 0);
}

/** The time now, s since 1970, by this device's clock put right. */
export const rightNow = () => Date.now() / 1000 + off;
