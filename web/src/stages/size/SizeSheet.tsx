import { memo } from "react";
import type { Flow, Run } from "../../api/types";
import { Answer } from "../../job/Answer";
import { Derived } from "../../job/Derived";
import { useNames, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, hasCurve } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Button, Heading, Row, Table, Title } from "../../ui/parts";
import { ConditionsHere } from "../ConditionsHere";
import { StageProblems } from "../Problems";
import { RunForm } from "../survey/RunForm";
import { DrainPipe } from "./DrainPipe";
import { Dripping } from "./Dripping";
import { GoesRound, Pits } from "./GoesRound";
import { InTheHouse } from "./InTheHouse";
import { Landing } from "./Landing";
import { LoopOrTree } from "./LoopOrTree";
import { Nozzles } from "./Nozzles";
import { OperatingChart } from "./Operating";
import { Outlets } from "./Outlets";
import { ScenarioTable } from "./Scenarios";
import { ThreeWays } from "./ThreeWays";
import { WhatIf, WhatIfSize } from "./WhatIf";
import { WhenToWater } from "./WhenToWater";
import { Zones } from "./Zones";

/** Size: what flows where, how fast, at what pressure, and why each run has its size. */
export function SizeSheet({ scenario }: { scenario: string }) {
  const { plan, derived } = useReadyJob();
  const selected = useJob((s) => s.selected);
  const flow = derived.sizes.flows[scenario];
  const drains = derived.drains;
  const run = plan.runs.find((r) => r.id === selected);
  const point = plan.points.find((p) => p.id === selected);
  const reference = useReference();
  const pump = point && hasCurve(reference, point) ? point : plan.points.find((p) => hasCurve(reference, p));
  return (
    <>
      <Title
        note={
          flow
            ? `${flow.name}: settled in ${flow.steps} ${flow.steps === 1 ? "step" : "steps"}`
            : drains.length
              ? "Drains only."
              : "Nothing flows yet."
        }
      >
        Size
      </Title>
      <Answer stage="size" />
      <StageProblems stage="size" />
      {flow && Object.keys(flow.outlets).length > 0 && <Outlets flow={flow} />}
      <InTheHouse />
      <Pits />
      <GoesRound />
      {derived.watered[scenario] && <Landing found={derived.watered[scenario]} />}
      {derived.dripped[scenario] && <Dripping found={derived.dripped[scenario]} />}
      {plan.points.some((p) => has(reference, p, "waters")) && (
        <>
          <Zones />
          <WhenToWater />
          <Nozzles />
        </>
      )}
      {run && <RunForm key={run.id} run={run} />}
      {run && <WhatIfSize key={`what if ${run.id}`} run={run} />}
      {point && <WhatIf key={point.id} point={point} />}
      <ScenarioTable />
      {drains.length > 0 && <Drains />}
      {drains.length > 0 && <DrainPipe />}
      {flow && <Runs flow={flow} />}
      {flow && pump && <OperatingChart point={pump.id} />}
      {flow && <ThreeWays />}
      {flow && derived.lines.loops && <LoopOrTree />}
      <ConditionsHere
        title="What sizes are judged by"
        names={["friction", "max_velocity", "closing", "water_temperature", "altitude"]}
      />
      <ConditionsHere
        title="How cold and how warm it gets"
        names={["frost", "frost_days", "soil", "coldest", "warmest"]}
      />
      <ConditionsHere title="What energy costs" names={["energy_price", "run_hours", "years", "pump_efficiency"]} />
    </>
  );
}

function Runs({ flow }: { flow: Flow }) {
  const { plan, derived } = useReadyJob();
  const format = useFormat();
  const selected = useJob((s) => s.selected);
  const name = useNames();
  const drains = new Set(derived.drains.map((d) => d.run));
  return (
    <section aria-label="Runs">
      <Heading note={`limit ${format(plan.conditions.max_velocity, "velocity")}`}>Runs</Heading>
      <Table
        caption="Runs"
        numbers={[2, 3, 4, 5]}
        head={[
          "run and why",
          "size",
          format.unit("flow"),
          format.unit("velocity"),
          `loss, ${format.unit("head")}`,
          `surge to, ${format.unit("pressure")}`,
        ]}
        of={plan.runs.filter((r) => !drains.has(r.id) && !r.coupled)}
        row={(r) => (
          <RunRow
            key={r.id}
            run={r}
            between={`${name.get(r.a.point)} – ${name.get(r.b.point)}`}
            flow={flow}
            selected={selected === r.id}
          />
        )}
      />
    </section>
  );
}

type RunRowProps = { run: Run; between: string; flow: Flow; selected: boolean };

/** One run, drawn again only where something of it changed. */
const RunRow = memo(function RunRow({ run: r, between, flow, selected }: RunRowProps) {
  const { derived } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const choice = derived.sizes.choices[r.id];
  const f = flow.runs[r.id];
  const stopped = derived.surges[r.id];
  const fast = f?.fast;
  return (
    <Row selected={selected}>
      <td>
        <Button tone="quiet" className="text-left" onClick={() => select(r.id)}>
          {between}
        </Button>
        <span className="block text-[0.78125rem] text-muted">{choice?.says}</span>
      </td>
      <td className="whitespace-nowrap">
        <Derived kind="size" name={r.id} scenario={flow.scenario}>
          {reference.series.find((s) => s.id === choice?.series)?.short.split(" ")[0]} {choice?.size}
        </Derived>
      </td>
      <td className="text-right">
        {f ? (
          <Derived kind="flow" name={r.id} scenario={flow.scenario}>
            {format.bare(Math.abs(f.flow), "flow")}
          </Derived>
        ) : (
          "–"
        )}
      </td>
      <td className={`text-right ${fast ? "font-bold text-dry" : ""}`}>
        {f ? (
          <Derived kind="velocity" name={r.id} scenario={flow.scenario}>
            {format.bare(f.velocity, "velocity")}
            {fast ? " fast" : ""}
          </Derived>
        ) : (
          "–"
        )}
      </td>
      <td className="text-right">
        {f ? (
          <Derived kind="loss" name={r.id} scenario={flow.scenario}>
            {format.bare(f.loss, "head")}
          </Derived>
        ) : (
          "–"
        )}
      </td>
      <td className="text-right" style={{ color: stopped && !stopped.holds ? "var(--color-dry)" : undefined }}>
        {f && stopped ? (
          <Derived kind="surge" name={r.id} scenario={flow.scenario}>
            {format.bare(stopped.peak, "pressure")}
          </Derived>
        ) : (
          "–"
        )}
      </td>
    </Row>
  );
});

/** The drains with all inlets running at once: what each run carries, how it falls, how full it is and whether it cleans itself. */
function Drains() {
  const { derived } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const selected = useJob((s) => s.selected);
  const name = useNames();
  return (
    <section aria-label="Drains">
      <Heading note="all inlets at once">Drains</Heading>
      <Table
        caption="Drains"
        numbers={[2, 3, 4, 5]}
        head={["run and why", "size", format.unit("flow"), "falls", "full", format.unit("velocity")]}
      >
        {derived.drains.map((d) => {
          const bad = !d.cleans_out && (!d.state?.fits || !d.state.cleans);
          return (
            <Row key={d.run} selected={selected === d.run} className={bad ? "text-dry" : ""}>
              <td>
                <Button tone="quiet" className="text-left" onClick={() => select(d.run)}>
                  {name.get(d.upper)} – {name.get(d.lower)}
                </Button>
                <span className="block text-[0.78125rem] text-muted">
                  {reference.series.find((s) => s.id === d.series)?.short}: {d.says}
                  {d.state && `; ${d.state.says}`}
                  {d.cleans_out && "; it leads up to a clean-out"}
                </span>
                <span className="block text-[0.78125rem] text-muted">
                  invert {format(d.inverts[0], "invert")} to {format(d.inverts[1], "invert")}, cover{" "}
                  {d.covers.map((c) => (c > 0 ? format(c, "depth") : "none")).join(" to ")}
                </span>
              </td>
              <td>{d.size}</td>
              <td className="text-right">{format.bare(d.flow, "flow")}</td>
              <td className="text-right whitespace-nowrap">{d.falls}</td>
              <td className="text-right whitespace-nowrap">{d.state ? format(d.state.depth, "humidity") : "–"}</td>
              <td className="text-right">{d.state ? format.bare(d.state.velocity, "velocity") : "–"}</td>
            </Row>
          );
        })}
      </Table>
      {derived.drained_to.map((d) => (
        <p key={d.point} className="mt-2">
          {d.says}
        </p>
      ))}
    </section>
  );
}
