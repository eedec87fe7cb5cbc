import type { Reference } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useReference } from "../../ui/context";
import { Heading, Pick } from "../../ui/parts";

/** Where the trade disagrees: this crew's own way, with its reason and any floor under it. */
export function Practices() {
  const reference = useReference();
  return (
    <>
      <Heading note="crews differ; this is yours">Crew standards</Heading>
      {reference.practices.map((p) => (
        <PracticePick key={p.question} practice={p} />
      ))}
    </>
  );
}

/** One question the trade answers in more than one way. */
export function PracticePick({ practice: p }: { practice: Reference["practices"][number] }) {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const chosen = plan.practices?.[p.question] ?? p.default;
  const option = p.options.find((o) => o.option === chosen);
  return (
    <div className="mb-2">
      <Pick
        label={p.title}
        options={p.options.map((o) => [o.option, o.option === p.default ? `${o.says} (usual)` : o.says] as const)}
        value={chosen}
        onPick={(v) => edit((plan) => ({ ...plan, practices: { ...plan.practices, [p.question]: v } }))}
      />
      <p className="text-[0.8125rem] text-muted">
        {option?.reason} {option?.floor}
      </p>
    </div>
  );
}
