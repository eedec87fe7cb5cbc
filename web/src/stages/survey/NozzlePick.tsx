import { api } from "../../api/client";
import { useAsked } from "../../job/asked";
import { useReadyJob } from "../../job/hooks";
import { useReference } from "../../ui/context";
import { Pick } from "../../ui/parts";

/** Heads given a nozzle by its table: what they pass, throw and need follows from it. */
export function NozzlePick({ heads, now = "" }: { heads: readonly string[]; now?: string }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const { says, ask } = useAsked();
  const own = plan.nozzles.map((n) => n.name);
  const named = [...own, ...reference.nozzles.map((n) => n.name).filter((n) => !own.includes(n))];
  const gone = now && !named.includes(now) ? [[now, `${now} (its table is not here)`] as const] : [];
  const forms = new Map([...reference.nozzles, ...plan.nozzles].map((n) => [n.name, n.form]));
  return (
    <div className="mt-2">
      <Pick
        label="Nozzle, by its table"
        options={[["", "numbers typed by hand"], ...gone, ...named.map((n) => [n, `${n}, ${forms.get(n)}`] as const)]}
        value={now}
        onPick={(nozzle) => nozzle && void ask((before) => api.group("nozzle", { chosen: heads, nozzle }, before))}
      />
      {says && (
        <p role="status" className="text-[0.8125rem] text-muted">
          {says}
        </p>
      )}
    </div>
  );
}
