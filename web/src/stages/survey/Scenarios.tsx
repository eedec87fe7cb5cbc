import type { Point, Reference, Turned } from "../../api/types";
import { addScenario, changeScenario, removeScenario, toggleOpen, turnIn } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, isOutlet, kindOf, nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Button, Check, Pick } from "../../ui/parts";
import { Words } from "../../ui/Typed";

/** Which outlets are open at once; everything at once until the crew says otherwise. */
export function Scenarios() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const outlets = plan.points.filter((p) => isOutlet(reference, p));
  const diverting = plan.points.filter((p) => has(reference, p, "diverts"));
  return (
    <>
      {!plan.scenarios.length && <p className="text-muted">Everything open at once, until you say otherwise.</p>}
      {plan.scenarios.map((s) => (
        <fieldset key={s.id} className="mb-2 border-b border-line pb-2">
          <legend className="sr-only">{s.name}</legend>
          <div className="flex items-end gap-2">
            <Words
              label="Name"
              value={s.name}
              onValue={(name) => edit((p) => changeScenario(p, s.id, { name }))}
              className="grow"
            />
            <Button onClick={() => edit((p) => removeScenario(p, s.id))}>Remove</Button>
          </div>
          <div className="flex flex-wrap gap-x-4">
            {outlets.map((o) => (
              <Check
                key={o.id}
                label={nameOf(reference, o)}
                checked={s.open.includes(o.id)}
                onChange={() => edit((p) => toggleOpen(p, s.id, o.id))}
              />
            ))}
          </div>
          {diverting.map((v) => (
            <Pick
              key={v.id}
              label={`${nameOf(reference, v)} is set`}
              options={[["drawn", "as it is drawn"], ...ways(reference, v)]}
              value={s.turned?.find((t) => t.point === v.id)?.shut ?? "drawn"}
              onPick={(to) => edit((p) => turnIn(p, s.id, v.id, to === "drawn" ? null : (to as Turned["shut"])))}
            />
          ))}
        </fieldset>
      ))}
      <Button onClick={() => edit((p) => addScenario(p, reference, `Scenario ${p.scenarios.length + 1}`))}>
        Add a scenario
      </Button>
    </>
  );
}

/** The ways a valve may be set: to shut each of its ports, or none. */
const ways = (reference: Reference, valve: Point) => [
  ["", "open all ways"] as const,
  ...(kindOf(reference, valve.what)?.ports ?? []).map(
    (port) => [port.name, `shut to ${port.title.toLowerCase()}`] as const,
  ),
];
