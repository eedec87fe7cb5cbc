import { api, Refused } from "../api/client";
import { isNew, sent } from "../api/id";
import type { Plan, ProblemDocument, Saved, Stage } from "../api/types";
import { changeOf } from "./change";
import { idsOf } from "./references";

/** Save what was changed since `base`, which is that revision: as a change where it can be told so. */
export function savePlan(job: string, revision: number, plan: Plan, base: Plan, stage: Stage): Promise<Saved> {
  const change = changeOf(base, plan);
  const [was, now] = [idsOf(base), idsOf(plan)];
  const back = [...now].filter((id) => !was.has(id) && !isNew(id));
  sent(now);
  return change ? api.saveChange(job, revision, change, back, stage) : api.savePlan(job, revision, plan, back, stage);
}

/** The problem an error of the API stands for; null where it is none of ours. */
export const problemOf = (error: unknown): ProblemDocument | null => (error instanceof Refused ? error.problem : null);
