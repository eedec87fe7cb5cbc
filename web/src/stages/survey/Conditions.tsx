import { withConditions } from "../../job/conditions";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useReference } from "../../ui/context";
import { Pick } from "../../ui/parts";
import { Fields } from "../Fields";
import { Weather } from "../Weather";
import { Practices } from "./Practices";

/** The job's conditions, limits and crew standards. */
export function Conditions() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const set = (change: Record<string, unknown>) => edit((p) => withConditions(p, change));
  return (
    <>
      <Pick
        label="Pipe where none is chosen"
        className="mb-2"
        options={reference.series
          .filter((s) => s.kind === "pressure" || s.kind === "drip")
          .map((s) => [s.id, s.name] as const)}
        value={plan.conditions.series}
        onPick={(series) => set({ series })}
      />
      <Pick
        label="What the shop sells"
        className="mb-2"
        options={reference.markets.map((m) => [m.market, m.title] as const)}
        value={plan.conditions.market}
        onPick={(market) => set({ market })}
      />
      <Fields
        fields={reference.conditions.filter((f) => f.name !== "series" && f.name !== "market")}
        values={plan.conditions}
        onChange={set}
      />
      <Weather />
      <Practices />
    </>
  );
}
