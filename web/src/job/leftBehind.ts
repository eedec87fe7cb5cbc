import { create } from "zustand";
import { api } from "../api/client";
import { fateOf } from "../api/custody";
import { page } from "../api/id";
import { kept } from "../api/kept";
import { type Draft, dropDraft, lookDrafts } from "./drafts";
import { useJob } from "./jobStore";
import { problemOf, savePlan } from "./saving";
import { Sync, unsavedJobs, unsavedOf } from "./sync";

/**
 * Drawings of jobs that are not open here and were changed where there was no signal: they are sent from any page as soon as there is one.
 * What clashes, or is refused, stays kept until a person opens that job.
 */
export type Why = "waits" | "clashes" | "is refused" | "is of a job that was deleted";

export const useLeft = create<{ jobs: ReadonlyMap<string, Why> }>(() => ({ jobs: new Map() }));

const AGAIN = 15_000;
const seen = new Map<string, Why>();
let sending: Promise<void> | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Whether a job is open here: its own page sees to it. */
const isOpen = (job: string): boolean => {
  const { id, view } = useJob.getState();
  return id === job && view.kind !== "failed";
};

const elsewhere = (): string[] => [...unsavedJobs(kept)].filter((job) => !isOpen(job));

/** Look at what is left, and tell it. */
export function lookLeft(): void {
  const jobs = new Map(elsewhere().map((job) => [job, seen.get(job) ?? "waits"] as const));
  const { jobs: told } = useLeft.getState();
  if (jobs.size !== told.size || [...jobs].some(([job, why]) => told.get(job) !== why)) useLeft.setState({ jobs });
  clearTimeout(timer);
  if ([...jobs.values()].includes("waits")) timer = setTimeout(() => void sendLeft(), AGAIN);
}

/** Send the drawings of jobs that are not open, one after another. */
export function sendLeft(): Promise<void> {
  sending ??= sendAll().finally(() => {
    sending = null;
    lookLeft();
  });
  return sending;
}

async function sendAll(): Promise<void> {
  for (const job of elsewhere()) seen.set(job, await sendOne(job));
}

async function sendOne(job: string): Promise<Why> {
  let why: Why = "waits";
  const sync = new Sync({
    save: (id, revision, plan, base) => savePlan(id, revision, plan, base, "survey"),
    open: (id) => api.job(id, "survey"),
    page,
    problemOf,
    shelf: kept,
    later: () => {},
    onChange: ({ clash }) => {
      if (clash) why = "clashes";
      if (isOpen(job)) sync.stop(); // it was opened meanwhile
    },
    onAnswer: () => {},
    onRefused: (_problem, plan) => {
      why = "is refused";
      sync.stop(); // so that it stays kept as it is
      return plan;
    },
    onGone: () => {
      why = "is of a job that was deleted";
    },
  });
  try {
    const view = await api.job(job, "survey");
    if (!isOpen(job)) await sync.start(view);
  } catch (error) {
    const problem = problemOf(error);
    if (!problem) throw error;
    if (fateOf(problem).kind === "gone") why = "is of a job that was deleted";
  }
  sync.stop();
  return why;
}

/** Make a job of its own of each drawing that is left of a job, as where that was deleted; the new jobs' ids. */
export async function asNewJobs(job: string): Promise<string[]> {
  const made: string[] = [];
  for (const [key, plan] of unsavedOf(kept, job)) {
    const file = JSON.stringify({ format: "hydrarch/job/2", plan, events: [] });
    made.push((await api.importJob(new Blob([file]))).id);
    kept.drop(key);
  }
  lookLeft();
  return made;
}

/** Make a job of its own of a drawing that was refused; the new job's id. */
export async function draftAsNewJob(draft: Draft): Promise<string> {
  const file = JSON.stringify({ format: "hydrarch/job/2", plan: draft.plan, events: [] });
  const { id } = await api.importJob(new Blob([file]));
  dropDraft(kept, draft.key);
  return id;
}

/** Send what is left when the page opens, whenever there is a signal again, and when another job is opened. */
export function wireLeft(): void {
  addEventListener("online", () => void sendLeft());
  addEventListener("storage", () => {
    lookLeft();
    lookDrafts();
  });
  useJob.subscribe((now, before) => {
    if (now.id !== before.id || now.view.kind !== before.view.kind) void kept.ready().then(sendLeft);
  });
  void kept.ready().then(() => {
    lookDrafts();
    return sendLeft();
  });
}
