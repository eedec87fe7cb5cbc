import type { EventIn } from "./types";

/** Events said while the server could not be reached, kept in the browser until it can. */
const key = (job: string) => `hydrarch.queue.${job}`;

export function queued(job: string): EventIn[] {
  try {
    return JSON.parse(localStorage.getItem(key(job)) ?? "[]") as EventIn[];
  } catch {
    return [];
  }
}

export function keep(job: string, events: EventIn[]): void {
  localStorage.setItem(key(job), JSON.stringify([...queued(job), ...events]));
}

export function drop(job: string, ids: string[]): void {
  const left = queued(job).filter((e) => !ids.includes(e.id));
  if (left.length) localStorage.setItem(key(job), JSON.stringify(left));
  else localStorage.removeItem(key(job));
}
