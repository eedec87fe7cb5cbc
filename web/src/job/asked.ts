import { useRef, useState } from "react";
import { Refused } from "../api/client";
import type { Plan } from "../api/types";
import { useJob } from "./jobStore";

type Answer = { plan: Plan; says: string };

/**
 * Edits that the core works out: the plan is sent, and what comes back is one edit, undone like any other.
 *
 * An answer to a plan that was changed meanwhile is not taken: it would undo what came between.
 */
export function useAsked() {
  const edit = useJob((s) => s.edit);
  const [says, setSays] = useState("");
  const last = useRef<Promise<unknown>>(Promise.resolve());
  /** One after another: who presses three times has it three times. */
  const ask = <A extends Answer>(what: (plan: Plan) => Promise<A>): Promise<A | null> => {
    const next = last.current.then(() => work(what));
    last.current = next.catch(() => null);
    return next;
  };
  const work = async <A extends Answer>(what: (plan: Plan) => Promise<A>): Promise<A | null> => {
    const before = useJob.getState().plan;
    if (!before) return null;
    try {
      const answer = await what(before);
      if (useJob.getState().plan !== before) {
        setSays("The drawing changed meanwhile: press once more.");
        return null;
      }
      edit(() => answer.plan);
      setSays(answer.says);
      return answer;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setSays(error.problem.detail);
      return null;
    }
  };
  return { says, ask };
}
