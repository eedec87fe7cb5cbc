import type { Kind, KindName, Point } from "../../api/types";
import { useReference } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { Button, Heading, Pick } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";
import { Cautions } from "../Cautions";
import { Fields } from "../Fields";
import { Problems } from "../Problems";
import { changePoint, changeWhat, newWhat, removePoint } from "../planEdit";
import { PumpCurve } from "./PumpCurve";

/** One point: name, place, levels, and what it is. */
export function PointForm({ point, kind }: { point: Point; kind: Kind }) {
  const reference = useReference();
  const { job } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const set = (change: Partial<Point>) => edit((p) => changePoint(p, point.id, change));
  return (
    <section aria-label={`Point ${point.name || point.id}`}>
      <Heading
        note={
          <Button tone="quiet" onClick={() => select(null)}>
            Back to the list
          </Button>
        }
      >
        {point.name || `${kind.title} ${point.id}`}
      </Heading>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Words label="Name" value={point.name} onValue={(name) => set({ name })} />
        <Pick
          label="What it is"
          options={reference.kinds.map((k) => [k.kind, k.title] as const)}
          value={point.what.kind}
          onPick={(k) => set({ what: newWhat(reference, k as KindName) })}
        />
        <Typed label="East" quantity="length" value={point.x} onValue={(x) => set({ x })} />
        <Typed label="North" quantity="length" value={point.y} onValue={(y) => set({ y })} />
        <Typed label="Ground level" quantity="level" value={point.ground} onValue={(ground) => set({ ground })} />
        <Typed
          label="Depth of pipe below ground"
          quantity="depth"
          value={point.depth}
          onValue={(depth) => set({ depth })}
        />
      </div>
      {kind.fields.length > 0 && (
        <>
          <Heading>{kind.title}</Heading>
          <Fields
            fields={kind.fields}
            values={point.what}
            onChange={(change) => edit((p) => changeWhat(p, point.id, change))}
          />
        </>
      )}
      {point.what.kind === "well_pump" && (
        <PumpCurve curve={point.what.curve} onCurve={(curve) => edit((p) => changeWhat(p, point.id, { curve }))} />
      )}
      <Problems problems={job.derived.problems.filter((p) => p.where === point.id)} />
      <Cautions cautions={kind.cautions} />
      <Button
        tone="dry"
        className="mt-3"
        onClick={() => {
          select(null);
          edit((p) => removePoint(p, point.id));
        }}
      >
        Delete this point
      </Button>
    </section>
  );
}
