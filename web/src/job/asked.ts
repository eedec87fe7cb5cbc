import { useRef, useState } from "react";
import { Refused } from "../api/client";
import type { Plan, ProblemDocument } from "../api/types";
import { useJob } from "./jobStore";

type Answer = { plan: Plan; says: string };

/** How often an edit is asked for anew, when another comes between each time. */
const TRIES = 5;

const changed: ProblemDocument = {
  type: "/problems/changed-meanwhile",
  title: "Not drawn",
  status: 409,
  detail: "The drawing changed meanwhile.",
  mend: "Press once more.",
  places: [],
  extra: {},
};

/**
 * Ask the core for an edit of the drawing as it is now, and draw the answer; null where the job was left meanwhile.
 *
 * An answer to a plan that was changed meanwhile is not taken: it would undo what came between. The same is asked of the
 * changed plan, so that a press counts even when the server's answer to another comes between.
 */
export async function askOfPresent<A extends { plan: Plan }>(what: (plan: Plan) => Promise<A>): Promise<A | null> {
  const { id } = useJob.getState();
  for (let tried = 0; tried < TRIES; tried++) {
    const { plan: before, id: now } = useJob.getState();
    if (!before || now !== id) return null;
    const answer = await what(before);
    const { plan, edit } = useJob.getState();
    if (plan !== before) continue;
    edit(() => answer.plan);
    return answer;
  }
  throw new Refused(changed);
}

/** Edits that the core works out: the plan is sent, and what comes back is one edit, undone like any other. */
export function useAsked() {
  const [says, setSays] = useState("");
  const last = useRef<Promise<unknown>>(Promise.resolve());
  /** One after another: who presses three times has it three times. */
  const ask = <A extends Answer>(what: (plan: Plan) => Promise<A>): Promise<A | null> => {
    const next = last.current.then(() => work(what));
    last.current = next.catch(() => null);
    return next;
  };
  const work = async <A extends Answer>(what: (plan: Plan) => Promise<A>): Promise<A | null> => {
    try {
      const answer = await askOfPresent(what);
      setSays(answer?.says ?? "");
      return answer;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setSays([error.problem.detail, error.problem.mend].join(" ").trim());
      return null;
    }
  };
  return { says, ask };
}
