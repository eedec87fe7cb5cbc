import { labelLink } from "../../api/client";
import type { KindView, Point } from "../../api/types";
import { changeKind, changePoint, changeWhat, removePoint, turnRound } from "../../job/edits";
import { useProblems, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, isHead, nameOf, newWhat, tells } from "../../job/kinds";
import { Photos } from "../../job/Photos";
import { Cautions } from "../../ui/Cautions";
import { useReference } from "../../ui/context";
import { Button, Heading, Pick } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";
import { Fields } from "../Fields";
import { Problems } from "../Problems";
import { ArcTurn } from "./ArcTurn";
import { DetailsOf } from "./Details";
import { DripHead } from "./DripHead";
import { JetRing } from "./JetRing";
import { KeepInBook } from "./KeepInBook";
import { Met } from "./Met";
import { NozzlePick } from "./NozzlePick";
import { Ports } from "./Ports";

/** One point: name, place, levels, what it is, and how its ports are. */
export function PointForm({ point, kind }: { point: Point; kind: KindView }) {
  const reference = useReference();
  const { job, derived } = useReadyJob();
  const problems = useProblems();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const set = (change: Partial<Point>) => edit((p) => changePoint(p, point.id, change));
  return (
    <section aria-label={`Point ${nameOf(reference, point)}`}>
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
          onPick={(k) => edit((p) => changeKind(p, reference, point.id, newWhat(reference, k), derived.lines))}
        />
        <Typed label="East" quantity="length" value={point.x} onValue={(x) => set({ x })} />
        <Typed label="North" quantity="length" value={point.y} onValue={(y) => set({ y })} />
        <Typed label="Ground level" quantity="level" value={point.ground} onValue={(ground) => set({ ground })} />
        {kind.role !== "body" && (
          <Typed
            label="Depth of pipe below ground"
            quantity="depth"
            value={point.depth}
            onValue={(depth) => set({ depth })}
          />
        )}
      </div>
      {kind.fields.length > 0 && (
        <>
          <Heading>{kind.title}</Heading>
          <Fields
            fields={kind.fields.filter((f) => f.name !== "nozzle" && tells(point.what, f))}
            values={point.what}
            onChange={(change) => edit((p) => changeWhat(p, point.id, change))}
          />
        </>
      )}
      {isHead(point.what) && (
        <>
          <NozzlePick heads={[point.id]} now={point.what.nozzle} />
          <ArcTurn head={point.id} arc={point.what.arc} />
        </>
      )}
      {has(reference, point, "leads-drip") && <DripHead at={point.id} />}
      {has(reference, point, "water-body") && <JetRing at={point.id} />}
      {kind.one_way && (
        <Button className="mt-2" onClick={() => edit((p) => turnRound(p, reference, point.id))}>
          Turn it round (t)
        </Button>
      )}
      <Otherwise point={point} />
      <DetailsOf point={point} />
      <Ports point={point} />
      {kind.role !== "mark" && kind.role !== "body" && (
        <Met existing={point.existing} onExisting={(existing) => set({ existing })} what="it" />
      )}
      {kind.role !== "line" && kind.role !== "mark" && <KeepInBook point={point} kind={kind} />}
      <Problems problems={problems.filter((p) => p.where === point.id)} />
      <Photos about={point.id} />
      <a
        className="inline-flex min-h-[44px] items-center text-water underline"
        href={labelLink(job.id, point.id)}
        target="_blank"
        rel="noreferrer"
      >
        Label with a code for it, to print
      </a>
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

/** What is done otherwise here than in the rest of the job, each taken back at a press. */
function Otherwise({ point }: { point: Point }) {
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const own = Object.entries(point.practices ?? {});
  if (!own.length) return null;
  return (
    <>
      <Heading>Exceptions on this job</Heading>
      {own.map(([question, way]) => {
        const asked = reference.practices.find((p) => p.question === question);
        const { [question]: _gone, ...rest } = point.practices ?? {};
        return (
          <p key={question} className="flex flex-wrap items-center gap-2">
            <span className="grow">
              {asked?.title}: {asked?.options.find((o) => o.option === way)?.says}
            </span>
            <Button onClick={() => edit((p) => changePoint(p, point.id, { practices: rest }))}>As elsewhere</Button>
          </p>
        );
      })}
    </>
  );
}
