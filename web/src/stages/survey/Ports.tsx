import type { Point } from "../../api/types";
import { choosePort } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { givenEnd, nameOf, portsOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Heading } from "../../ui/parts";
import { endWords, namedEnd } from "../../ways/endNames";
import { EndPick } from "../EndPick";

/** The ports of a thing: what comes to each, and its end where the crew knows better than the kind. */
export function Ports({ point }: { point: Point }) {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const ports = portsOf(reference, point.what).filter((p) => p.ends.length > 0);
  if (!ports.length) return null;
  const comes = (port: string) =>
    plan.runs.flatMap((r) => {
      const [near, far] = r.a.point === point.id ? [r.a, r.b] : r.b.point === point.id ? [r.b, r.a] : [null, null];
      const there = far && plan.points.find((p) => p.id === far.point);
      const mine = near && (near.port === port || ports.length === 1);
      return mine && there ? [{ name: nameOf(reference, there), size: derived.sizes.choices[r.id]?.size }] : [];
    });
  return (
    <section aria-label="Ports">
      <Heading note="what its ends are">Ports</Heading>
      {ports.map((p) => {
        const given = givenEnd(p, plan.conditions.market ?? "both");
        const from = comes(p.name);
        return (
          <div key={p.name} className="mb-1.5">
            <EndPick
              label={`${p.title}${from.length ? `, from ${from.map((f) => f.name).join(" and ")}` : ", free"}`}
              value={point.ports[p.name] ?? null}
              usual={given ? `usual: ${endWords(reference.ends, given)}` : "a part that suits the pipe"}
              from={p.ends}
              like={namedEnd(reference.ends, given)?.size ?? from.find((f) => f.size)?.size}
              onValue={(end) => edit((plan) => choosePort(plan, point.id, p.name, end))}
            />
          </div>
        );
      })}
    </section>
  );
}
