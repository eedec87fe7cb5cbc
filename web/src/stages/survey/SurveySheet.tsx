import { MeasureBar } from "../../drawing/MeasureBar";
import { useTools } from "../../drawing/toolStore";
import { Answer } from "../../job/Answer";
import { useProblems, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has } from "../../job/kinds";
import { Cautions } from "../../ui/Cautions";
import { useReference } from "../../ui/context";
import { Fold, Title } from "../../ui/parts";
import { useSmall } from "../../ui/useSmall";
import { Problems } from "../Problems";
import { AddByTyping } from "./AddByTyping";
import { Begin } from "./Begin";
import { PictureBeneath } from "./Beneath";
import { Conditions } from "./Conditions";
import { Details } from "./Details";
import { GroupForm } from "./GroupForm";
import { LeavingPipes } from "./LeavingPipes";
import { Levels } from "./Levels";
import { OnEarth } from "./OnEarth";
import { PointForm } from "./PointForm";
import { PointsIn } from "./PointsIn";
import { RoomSet } from "./RoomSet";
import { RunForm } from "./RunForm";
import { Scenarios } from "./Scenarios";
import { PointsTable, RunsTable } from "./Tables";
import { Tools } from "./Tools";

/** Survey: what stands where, how the line runs, and the conditions it works in. */
export function SurveySheet() {
  const { plan, derived } = useReadyJob();
  const problems = useProblems();
  const reference = useReference();
  const selected = useJob((s) => s.selected);
  const point = plan.points.find((p) => p.id === selected);
  const run = plan.runs.find((r) => r.id === selected);
  const several = useTools((s) => s.tool.kind === "frame");
  const kind = reference.kinds.find((k) => k.kind === point?.what.kind);
  const small = useSmall();
  const moving = useTools((s) => s.tool.kind === "select");
  const measuring = useTools((s) => s.measuring);
  const chosen = (
    <>
      {several && <GroupForm />}
      {!several && point && kind && <PointForm key={point.id} point={point} kind={kind} />}
      {!several && run && <RunForm key={run.id} run={run} />}
    </>
  );
  const first = small && moving && !measuring; // what was pressed is what is looked for, where there is room for little
  return (
    <>
      <div className="small:sr-only">
        <Title note="Set down where water comes from and goes to; draw the pipe between.">Survey</Title>
      </div>
      {!small && <Answer stage="survey" />}
      {first && chosen}
      {small && !several && measuring && <MeasureBar inSheet />}
      {!(small && measuring) && <Tools />}
      {small && <Answer stage="survey" />}
      {!several && !point && !run && <Begin />}
      {!first && chosen}
      {!several && !point && !run && (
        <>
          <Problems problems={problems.filter((p) => p.severity !== "note")} />
          <AddByTyping />
          {plan.points.some((p) => has(reference, p, "fixture")) || plan.about === "house" ? <RoomSet /> : null}
          <LeavingPipes />
          <PointsIn />
          <Levels />
          <Details />
          <OnEarth />
          <PictureBeneath />
          <Fold title="Points" note={`${plan.points.length}`}>
            <PointsTable />
          </Fold>
          <Fold title="Runs" note={`${plan.runs.length}`}>
            <RunsTable />
          </Fold>
          <Fold title="What is open at once" note={`${plan.scenarios.length}`}>
            <Scenarios />
          </Fold>
          <Fold title="Conditions and crew standards">
            <Conditions />
          </Fold>
          <Cautions cautions={derived.cautions} />
        </>
      )}
    </>
  );
}
