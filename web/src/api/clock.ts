import { kept } from "./kept";
import type { Said } from "./types";

/**
 * The time by this device's clock put right by what the server told of it, and a second clock beside it that nobody sets: it runs from
 * when the page was opened, and stands only while the device sleeps. So the clock on the wall can never have gone less far than it; where
 * it has, it was set back, by that much at the least.
 */

const KEY = "hydrarch.clock";
const HEARD = "hydrarch.clock-heard";
const SLACK = 30;

/** Seconds on the second clock. */
export const tick = () => performance.now() / 1000;

const wall = () => Date.now() / 1000;

let off = Number(kept.get(KEY) ?? 0) || 0;
/** A moment that was sure, by both clocks: when the page was opened, or the server last told the time. */
let sure = { time: wall() + off, tick: tick() };

/** By how much (s) this device's clock is to be put right, as the server told it: clocks that run are shown by that. */
export const putClockRight = (seconds: number): void => {
  off = seconds;
  sure = { time: wall() + off, tick: tick() };
  if (seconds) kept.put(KEY, String(seconds));
  else kept.drop(KEY);
};

/** By how much (s) the clock was set back since a moment that was sure; 0 where it was not, or went on in a sleep. */
function setBack(): number {
  const behind = sure.time + (tick() - sure.tick) - (wall() + off);
  return behind > SLACK ? behind : 0;
}

let known = kept.get(HEARD) !== null;

/** By how much (s) this device knows its clock to be wrong, by the server or by its second clock; null where it knows nothing of it. */
export function clockOff(): number | null {
  const back = setBack();
  return known || back ? off + back : null;
}

/** The server's clock in an answer that it made just now (never one that was kept), asked for at `sent` (ms). */
export function heardClock(answer: Response, sent: number): void {
  const told = Date.parse(answer.headers.get("Date") ?? "");
  if (Number.isNaN(told)) return;
  const here = (sent + Date.now()) / 2;
  const wrong = (told - here) / 1000;
  if (!known) kept.put(HEARD, "1");
  known = true;
  if (Math.abs(wrong - off) > SLACK) putClockRight(Math.abs(wrong) > SLACK ? wrong : 0);
  else sure = { time: wall() + off, tick: tick() };
}

/** The time now, s since 1970, by this device's clock put right. */
export const rightNow = () => wall() + off + setBack();

type Dated = Pick<Said, "id" | "at" | "device_off" | "page" | "tick">;
const when = (e: Dated): number => e.at + (Math.abs(e.device_off ?? 0) > SLACK ? (e.device_off ?? 0) : 0);

/** What was said first comes first: of one page by its second clock, else by the time put right. */
export function inOrder(a: Dated, b: Dated): number {
  if (a.page && a.page === b.page && a.tick != null && b.tick != null) return a.tick - b.tick;
  return when(a) - when(b) || a.id.localeCompare(b.id);
}
