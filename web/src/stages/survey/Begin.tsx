import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { ToBench } from "../../job/ToBench";
import { useReference } from "../../ui/context";
import { Button, Heading } from "../../ui/parts";
import { ConditionFields } from "../ConditionsHere";
import { PracticePick } from "./Practices";

/** What is found out first for a job of its kind: asked until somebody says that it is settled. */
export function Begin() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const begun = reference.beginnings.find((b) => b.about === plan.about);
  if (!begun) return null;
  const practices = begun.practices.flatMap((name) => reference.practices.filter((p) => p.question === name));
  return (
    <section aria-label="To find out first" className="mt-3 border-l-4 border-water bg-water-soft px-3 pb-2">
      <Heading note={begun.title}>To find out first</Heading>
      <ul className="list-disc pl-5">
        {begun.first.map((q) => (
          <li key={q}>{q}</li>
        ))}
      </ul>
      {begun.conditions.length > 0 && (
        <div className="mt-2">
          <ConditionFields names={begun.conditions} />
        </div>
      )}
      {practices.map((p) => (
        <PracticePick key={p.question} practice={p} />
      ))}
      <p className="mt-2 flex flex-wrap items-center gap-4">
        {begun.bench && (
          <ToBench href={`/bench/${begun.bench}`} className="text-water underline">
            A bench question helps with it
          </ToBench>
        )}
        <Button onClick={() => edit((p) => ({ ...p, about: "" }))}>Dismiss</Button>
      </p>
    </section>
  );
}
