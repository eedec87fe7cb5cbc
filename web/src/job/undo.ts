import type { Plan } from "../api/types";
import { merge } from "./merge";

/** What was done here, step by step, to be taken back on top of whatever others have done since. */

export type Step = { before: Plan; after: Plan };
export type History = { done: readonly Step[]; undone: readonly Step[] };

export const nothing: History = { done: [], undone: [] };
const MOST = 200;

export const did = (h: History, before: Plan, after: Plan): History => ({
  done: [...h.done.slice(1 - MOST), { before, after }],
  undone: [],
});

/** A step taken back, or done again: the plan that comes of it, and what others changed since in the same places. */
export type Taken = { history: History; plan: Plan; both: string[] };

export function undo(h: History, now: Plan): Taken | null {
  const step = h.done.at(-1);
  if (!step) return null;
  const history = { done: h.done.slice(0, -1), undone: [...h.undone, step] };
  return { history, ...turned(step.after, step.before, now) };
}

export function redo(h: History, now: Plan): Taken | null {
  const step = h.undone.at(-1);
  if (!step) return null;
  const history = { done: [...h.done, step], undone: h.undone.slice(0, -1) };
  return { history, ...turned(step.before, step.after, now) };
}

function turned(from: Plan, to: Plan, now: Plan): { plan: Plan; both: string[] } {
  return now === from ? { plan: to, both: [] } : merge(from, to, now, "mine");
}
