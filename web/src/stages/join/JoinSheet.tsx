import type { Joint } from "../../api/types";
import { useFormat } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { jointState } from "../../drawing/dress";
import { JointMark } from "../../drawing/glyphs";
import { Button, Heading, Title } from "../../ui/parts";
import { StageProblems } from "../Problems";
import { HubWays } from "./HubWays";
import { LegWays } from "./LegWays";
import { PartsTable } from "./PartsTable";

/** Join: every fitting and joint the drawing asks for. */
export function JoinSheet() {
  const { job, plan } = useReadyJob();
  const selected = useJob((s) => s.selected);
  const select = useJob((s) => s.select);
  const { joints, parts } = job.derived.assembly;
  const at = (p: { point: string | null; run: string | null }) =>
    selected !== null && (p.point === selected || p.run === selected);
  const here = joints.filter((j) => at(j) || j.id === selected);
  const legs = [...new Map(here.map((j) => [j.run ?? "", here.filter((x) => x.run === j.run)])).entries()];
  const point = plan.points.find((p) => p.id === selected);
  return (
    <>
      <Title note={`${parts.length} fittings, ${joints.length} joints; the fewest joints win`}>Join</Title>
      <StageProblems stage="join" />
      {here.length > 0 && (
        <section aria-label="Joints here">
          <Heading
            note={
              <Button tone="quiet" onClick={() => select(null)}>
                All parts
              </Button>
            }
          >
            {point?.name || here[0]?.place}
          </Heading>
          <p className="text-muted">
            {[...new Set(parts.filter(at).map((p) => p.name))].join(", ") || "No fitting: pipe end straight in."}
          </p>
          {point && <HubWays point={point.id} />}
          {legs.map(([run, joints]) => (
            <div key={run}>
              <Heading>{heading(joints[0]?.towards ?? "")}</Heading>
              {point && run !== "" && (
                <LegWays
                  point={point.id}
                  run={run}
                  used={parts.filter((p) => p.point === point.id && p.run === run).map((p) => p.fitting)}
                />
              )}
              <JointList joints={joints} />
            </div>
          ))}
        </section>
      )}
      {!here.length && (
        <>
          <p className="text-muted">Choose a point on the drawing to see its joints in order.</p>
          <PartsTable />
        </>
      )}
    </>
  );
}

const heading = (towards: string) => (towards ? `Towards ${towards}` : "Along the run");

export function JointList({ joints }: { joints: readonly Joint[] }) {
  const { job } = useReadyJob();
  const format = useFormat();
  return (
    <ol className="mt-2">
      {joints.map((j) => (
        <li key={j.id} className="flex gap-2 border-b border-line py-2">
          <JointMark method={j.method} state={jointState(job.readiness, j.id).state} />
          <div>
            <p className="font-semibold first-letter:uppercase">
              {j.method}, {j.size}
            </p>
            <p>
              {j.a.what} into {j.b.what}
            </p>
            <p className="text-[13px] text-muted">
              {j.towards && `towards ${j.towards} · `}takes {format(j.depth, "takeoff")}
            </p>
          </div>
        </li>
      ))}
    </ol>
  );
}
