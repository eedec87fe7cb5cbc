import { api, Refused } from "../api/client";
import { askAbout } from "../api/keptAnswers";
import { useOffline } from "../api/offline";
import { type KeptJob, keepJob, throwOutOld } from "../api/pantry";
import { useSignal } from "../api/signal";
import type { LeftOut, Plan, Procedures, Stage, Standing } from "../api/types";
import { fetchParts } from "../ui/onDemand";
import type { Derived } from "./derived";
import { useJob } from "./jobStore";

/**
 * The open job is taken along: once nothing was changed for a while, what its other stages show and how each joint is made are asked for
 * and kept with it, so that the whole of it is there where there is no signal, after a reload too.
 */

/** A job as the server last answered it: all that its stages show. */
export type Along = KeptJob & {
  revision: number;
  plan: Plan;
  leftOut: readonly LeftOut[];
  derived: Derived;
  looks: Derived["sizes"]["choices"];
  answered: Stage[];
  standing: Standing | null;
  procedures: Procedures | null;
};

const STAGES: readonly Stage[] = ["make", "prove", "keep", "join", "cut", "size", "survey"];
/** Where this page cannot be opened anew with no signal, only what the work in hand wants is fetched: the page that is open goes on. */
const IN_HAND: readonly Stage[] = ["make"];
const KEEP_AFTER = 400;
const FETCH_AFTER = 4_000;

let keeping: ReturnType<typeof setTimeout> | undefined;
let fetching: ReturnType<typeof setTimeout> | undefined;

/** Whether what the page holds of the job is what the server has. */
const settled = () => {
  const { view, plan, saving, clash, derived, revision } = useJob.getState();
  return view.kind === "ready" && plan !== null && saving === "saved" && !clash && derived.revision === revision;
};

async function keep(): Promise<void> {
  const { id, revision, plan, leftOut, derived, looks, answered, standing, procedures } = useJob.getState();
  if (!plan || !settled()) return;
  const along = procedures?.revision === revision ? procedures.all : null;
  const at = Date.now();
  const whole: Along = {
    id,
    revision,
    plan,
    leftOut,
    derived,
    looks,
    answered: [...answered],
    standing,
    procedures: along,
    at,
  };
  const kept = await keepJob(whole);
  useSignal.setState({ along: kept && along ? { job: id, revision } : null });
}

async function fetchRest(): Promise<void> {
  const { id, revision } = useJob.getState();
  const still = () => useJob.getState().id === id && useJob.getState().revision === revision && settled();
  const { able } = useOffline.getState();
  void fetchParts();
  for (const stage of able ? STAGES : IN_HAND) {
    if (!still() || document.hidden || useSignal.getState().lostAt !== null) return;
    await useJob.getState().need(stage, true);
  }
  if (!still() || useJob.getState().procedures?.revision === revision) return;
  try {
    const [all] = await Promise.all([api.procedures(id), ...(able ? [api.shop(id), api.jobs()].map(orNot) : [])]);
    if (still()) useJob.setState({ procedures: { revision, all } });
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
  }
}

/** A job too young for a list is taken along without one, and the list of jobs is no more than of help. */
const orNot = (asked: Promise<unknown>) =>
  asked.catch((error: unknown) => {
    if (!(error instanceof Refused)) throw error;
  });

export function takeAlong(): void {
  void throwOutOld(Date.now());
  useJob.subscribe((now, before) => {
    if (now.revision !== before.revision || now.id !== before.id) askAbout(now.id, now.revision);
    const changed =
      now.derived !== before.derived || now.standing !== before.standing || now.procedures !== before.procedures;
    if (!changed && now.saving === before.saving && now.view === before.view) return;
    clearTimeout(keeping);
    keeping = setTimeout(() => void keep(), KEEP_AFTER);
    if (now.revision === before.revision && now.view === before.view && now.saving === before.saving) return;
    clearTimeout(fetching);
    fetching = setTimeout(() => void fetchRest(), FETCH_AFTER);
  });
}
