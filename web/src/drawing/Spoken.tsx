import { useProblems, useReadyJob, useStands } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useFormat, useReference } from "../ui/context";
import { spoken } from "./inWords";

/** What is chosen on the drawing, said to whoever does not see it. */
export function Spoken() {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const problems = useProblems();
  const readiness = useStands()?.readiness ?? null;
  const selected = useJob((s) => s.selected);
  return (
    <p className="sr-only" aria-live="polite" data-spoken>
      {spoken({ plan, reference, derived, readiness, problems, format }, selected)}
    </p>
  );
}
