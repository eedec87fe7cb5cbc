import type { Stage } from "../api/types";
import { useReadyJob } from "./hooks";

/** A stage's answer in one line that a person could read out. */
export function Answer({ stage }: { stage: Stage }) {
  const { derived } = useReadyJob();
  const says = derived.says[stage];
  return says ? <p className="mb-2 font-semibold">{says}</p> : null;
}
