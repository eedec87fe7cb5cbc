import type { ReactNode } from "react";
import { withConditions } from "../job/conditions";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useReference } from "../ui/context";
import { Fold } from "../ui/parts";
import { Fields } from "./Fields";

/** Some of the job's conditions, by name: set where they matter, the same as on the page of all in Survey. */
export function ConditionFields({ names }: { names: readonly string[] }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const fields = names.flatMap((name) => reference.conditions.filter((f) => f.name === name));
  return (
    <Fields fields={fields} values={plan.conditions} onChange={(change) => edit((p) => withConditions(p, change))} />
  );
}

type Here = { title: string; note?: ReactNode; names: readonly string[]; children?: ReactNode };

/** The same, folded away until they are wanted. */
export function ConditionsHere({ title, note, names, children }: Here) {
  return (
    <Fold title={title} note={note} folded>
      <ConditionFields names={names} />
      {children}
    </Fold>
  );
}
