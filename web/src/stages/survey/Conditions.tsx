import { useReference } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { Pick } from "../../ui/parts";
import { Fields } from "../Fields";
import { Practices } from "./Practices";

/** The job's conditions, limits and house practice. */
export function Conditions() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const set = (change: Record<string, unknown>) => edit((p) => ({ ...p, conditions: { ...p.conditions, ...change } }));
  return (
    <>
      <Pick
        label="Pipe where none is chosen"
        className="mb-2"
        options={reference.series.filter((s) => s.kind === "pressure").map((s) => [s.id, s.name] as const)}
        value={plan.conditions.series}
        onPick={(series) => set({ series })}
      />
      <Fields
        fields={reference.conditions.filter((f) => f.name !== "series")}
        values={plan.conditions}
        onChange={set}
      />
      <Practices />
    </>
  );
}
