import type { NextLook } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { namesOf } from "../../job/kinds";
import { useReference } from "../../ui/context";

/** What is read, as it is said in a sentence. */
export const READ: Record<NextLook["what"], string> = {
  pressure: "the pressure",
  flow: "the flow",
  takes: "what the drain takes before it backs up",
};
export const quantityOf = (what: NextLook["what"]) => (what === "pressure" ? "pressure" : "flow");

/** What is seen or found without an instrument: nothing was read. */
export const withoutInstrument = { value: 0, error: 1, shut: "", instrument: "" } as const;

/** What a point or a run is called. */
export function useNames(): (id: string) => string {
  const { plan } = useReadyJob();
  const reference = useReference();
  const names = namesOf(reference, plan);
  return (id) => {
    const run = plan.runs.find((r) => r.id === id);
    return run ? `${names.get(run.a.point) ?? ""} to ${names.get(run.b.point) ?? ""}` : (names.get(id) ?? "");
  };
}
