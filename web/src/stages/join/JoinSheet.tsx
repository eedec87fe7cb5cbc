import { useEffect, useRef } from "react";
import type { Joint } from "../../api/types";
import { jointState } from "../../drawing/dress";
import { JointMark } from "../../drawing/joints";
import { Answer } from "../../job/Answer";
import { useReadyJob, useStands } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Heading, Title } from "../../ui/parts";
import { StageProblems } from "../Problems";
import { DripWays } from "./DripWays";
import { LegWays } from "./LegWays";
import { NodeWays } from "./NodeWays";
import { PartsTable } from "./PartsTable";
import { Places } from "./Places";

/** Join: every fitting and joint the drawing asks for. */
export function JoinSheet() {
  const { plan, derived } = useReadyJob();
  const selected = useJob((s) => s.selected);
  const select = useJob((s) => s.select);
  const { joints, parts } = derived;
  const point = plan.points.find((p) => p.id === selected);
  const run = plan.runs.find((r) => r.id === selected);
  const chosen = useRef<string | null>(null); // in the list: there the keyboard goes on, and comes back
  const top = useRef<HTMLElement>(null);
  useEffect(() => {
    if (selected && selected === chosen.current) top.current?.focus();
    if (!selected && chosen.current)
      document.querySelector<HTMLElement>(`[data-joints-at="${chosen.current}"]`)?.focus();
    if (!selected) chosen.current = null;
  }, [selected]);
  const ends = run ? [run.a.id, run.b.id] : [];
  const here = joints.filter(
    (j) =>
      j.id === selected || (point ? j.point === point.id : run && (j.run === run.id || ends.includes(j.end ?? ""))),
  );
  const legs = [...new Map(here.map((j) => [j.end ?? "", here.filter((x) => x.end === j.end)])).entries()];
  const mine = new Set(here.flatMap((j) => [j.a.part, j.b.part]));
  return (
    <>
      <Title note="Each in its place; the fewest joints win.">Join</Title>
      <Answer stage="join" />
      <StageProblems stage="join" />
      {here.length > 0 && (
        <section aria-label="Joints here" ref={top} tabIndex={-1}>
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
            {[...new Set(parts.filter((p) => mine.has(p.id)).map((p) => p.name))].join(", ") ||
              "No fitting: pipe end straight in."}
          </p>
          {point && <NodeWays point={point.id} />}
          {legs.map(([end, joints]) => (
            <div key={end}>
              <Heading>{heading(joints[0]?.towards ?? "")}</Heading>
              {end !== "" && joints.some((j) => j.role === "stack") && (
                <LegWays
                  end={end}
                  used={parts.filter((p) => p.end === end && p.point !== null).map((p) => p.fitting)}
                />
              )}
              <JointList joints={joints} />
            </div>
          ))}
        </section>
      )}
      <div hidden={here.length > 0}>
        <p className="text-muted">Choose a place on the drawing, or in the list, to see its joints in order.</p>
        <Places
          onChoose={(id) => {
            chosen.current = id;
            select(id);
          }}
        />
        <DripWays />
        <PartsTable />
      </div>
    </>
  );
}

const heading = (towards: string) => (towards ? `Towards ${towards}` : "Along the run");

function JointList({ joints }: { joints: readonly Joint[] }) {
  const readiness = useStands()?.readiness ?? null;
  const format = useFormat();
  return (
    <ol className="mt-2">
      {joints.map((j) => (
        <li key={j.id} className="flex gap-2 border-b border-line py-2">
          {readiness && <JointMark method={j.method} state={jointState(readiness, j.id).state} />}
          <div>
            <p className="font-semibold first-letter:uppercase">
              {j.method}, {j.size}
            </p>
            <p>
              {j.a.what} into {j.b.what}
            </p>
            <p className="text-[0.8125rem] text-muted">
              {j.towards && `towards ${j.towards} · `}takes {format(j.depth, "takeoff")}
            </p>
          </div>
        </li>
      ))}
    </ol>
  );
}
