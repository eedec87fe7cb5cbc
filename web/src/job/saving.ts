import { api, Refused } from "../api/client";
import type { Plan, ProblemDocument, Saved, Stage } from "../api/types";
import { changeOf } from "./change";

/** Save what was changed since `base`, which is that revision: as a change where it can be told so. */
export function savePlan(job: string, revision: number, plan: Plan, base: Plan, stage: Stage): Promise<Saved> {
  const change = changeOf(base, plan);
  return change ? api.saveChange(job, revision, change, stage) : api.savePlan(job, revision, plan, stage);
}

/** The problem an error of the API stands for; null where it is none of ours. */
export const problemOf = (error: unknown): ProblemDocument | null => (error instanceof Refused ? error.problem : null);
