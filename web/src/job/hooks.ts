import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { putClockRight, rightNow } from "../api/clock";
import type { Boxed } from "../api/outbox";
import type { Plan, PlanProblem, ProblemDocument, Said, Stage, Standing } from "../api/types";
import { live, onAnswered, onBoxed, outbox } from "../api/wired";
import { useJob } from "../job/jobStore";
import { useReference } from "../ui/context";
import { type Derived, problemsAt } from "./derived";
import { folded } from "./folded";
import { namesOf } from "./kinds";

/** What views of an open job use. */

type Ready = { job: { id: string; revision: number }; plan: Plan; derived: Derived };

/** The open job; only used where it is ready. */
export function useReadyJob(): Ready {
  const id = useJob((s) => s.id);
  const revision = useJob((s) => s.revision);
  const plan = useJob((s) => s.plan);
  const derived = useJob((s) => s.derived);
  if (!plan) throw new Error("no job is open");
  return { job: { id, revision }, plan, derived };
}

/** What each point is called, by id: never the id itself. */
export function useNames(): ReadonlyMap<string, string> {
  const { plan } = useReadyJob();
  return namesOf(useReference(), plan);
}

/** The problems of the open stage. */
export function useProblems(): readonly PlanProblem[] {
  const stage = useJob((s) => s.stage);
  return problemsAt(useReadyJob().derived, stage);
}

let lastFold: { of: readonly unknown[]; found: Standing } | null = null;

/** Where the job stands, with what was said here and waits; null where that is not known yet. Worked out once for all who look. */
export function useStands(): Standing | null {
  const standing = useJob((s) => s.standing);
  const procedures = useJob((s) => (s.procedures?.revision === s.revision ? s.procedures.all : null));
  const sections = useJob((s) => s.derived.sections);
  const job = useJob((s) => s.id);
  const { waiting } = useBox();
  if (!standing) return null;
  const tick = waiting.length ? Math.floor(rightNow() / 5) : 0;
  const of = [standing, procedures, sections, waiting, job, tick] as const;
  if (!lastFold || of.some((x, i) => x !== lastFold?.of[i])) {
    const mine = waiting.filter((e) => e.job === job);
    lastFold = { of, found: folded(standing, mine, procedures, sections, rightNow()) };
  }
  return lastFold.found;
}

/** The same; only used in the stages that are answered with it. */
export function useStanding(): Standing {
  const standing = useStands();
  if (!standing) throw new Error("where the job stands is not known yet");
  return standing;
}

/** Whether the server has the plan as it is drawn here, so that it can be asked about it. */
export const useSaved = (): boolean => useJob((s) => s.saving === "saved" && s.clash === null);

let box: Boxed = outbox.boxed();
onAnswered(({ answer }) => putClockRight(answer.clock));
onBoxed((next) => {
  box = next;
});

export const useBox = (): Boxed => useSyncExternalStore(onBoxed, () => box);

/** News of the job while it is open, and what the server answers to what was said. */
export function useNews(id: string): void {
  const news = useJob((s) => s.news);
  const stand = useJob((s) => s.stand);
  useEffect(() => live.listen(news), [news]);
  useEffect(() => onAnswered(({ job, answer }) => job === id && stand(answer.standing)), [id, stand]);
}

/** Say something in a job's record: the first problem there is, and what is refused is dropped while somebody is `here` to see it. */
export async function sayIn(
  job: string,
  events: Said[],
  stage: Stage,
  here = () => true,
): Promise<ProblemDocument | null> {
  const told = [...(await outbox.say(job, events, stage))];
  if (!here()) return null;
  const refused = told.flatMap(([event, problem]) => (problem ? [{ event, problem }] : []));
  for (const { event } of refused) outbox.discard(event);
  return refused[0]?.problem ?? null;
}

/**
 * Say what was done. What the server refuses while it is looked at here is told here and taken out of the outbox, to be said again
 * otherwise; what it refuses later stays there in sight.
 */
export function useSay(): { say: (events: Said[]) => Promise<boolean>; fault: ProblemDocument | null } {
  const here = useRef(true);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  const say = async (events: Said[]) => {
    const { id, stage } = useJob.getState();
    const problem = await sayIn(id, events, stage, () => here.current);
    if (!here.current) return false;
    setFault(problem);
    return problem === null;
  };
  return { say, fault };
}
