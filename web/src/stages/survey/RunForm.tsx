import { useEffect } from "react";
import { api } from "../../api/client";
import type { Run } from "../../api/types";
import { useAsked } from "../../job/asked";
import { repairOf } from "../../job/benchPlace";
import { changeRun, removeRun, splitRun } from "../../job/edits";
import { useProblems, useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { nameOf, portsOf } from "../../job/kinds";
import { ToBench } from "../../job/ToBench";
import { useFormat, useReference } from "../../ui/context";
import { Box, Button, Check, Heading, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { Problems } from "../Problems";
import { Met } from "./Met";

/** One run: where it lies, its pipe, its length by the tape, and which ports it comes to. */
export function RunForm({ run }: { run: Run }) {
  const { job, plan, derived } = useReadyJob();
  const problems = useProblems();
  const reference = useReference();
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const need = useJob((s) => s.need);
  const select = useJob((s) => s.select);
  const saved = useSaved();
  const { says, ask } = useAsked();
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew for every revision
  useEffect(() => {
    if (saved) void need("size");
  }, [saved, need, job.revision]);
  const replace = async () => {
    const done = await ask((before) => api.group("new-service", { chosen: [run.id] }, before));
    if (done) select(done.chosen[0] ?? null);
  };
  const set = (change: Partial<Run>) => edit((p) => changeRun(p, run.id, change));
  const [a, b] = [run.a, run.b].map((e) => plan.points.find((p) => p.id === e.point));
  const choice = derived.sizes.choices[run.id];
  const line = derived.lines.lines[run.id];
  const series = reference.series.find((s) => s.id === (run.series ?? derived.lines.series[run.id]));
  const drain = series?.kind === "drain";
  const house = drain ? series : reference.series.find((s) => s.id === plan.conditions.series);
  const kinds = [...(drain ? ["drain"] : ["pressure", "drip"]), ...(run.existing ? ["met"] : [])];
  const offered = reference.series.filter((s) => kinds.includes(s.kind));
  return (
    <section aria-label={`Run ${run.id}`}>
      <Heading
        note={
          <Button tone="quiet" onClick={() => select(null)}>
            Back to the list
          </Button>
        }
      >
        {a ? nameOf(reference, a) : run.a.point} to {b ? nameOf(reference, b) : run.b.point}
      </Heading>
      {!run.coupled && (
        <div className="grid grid-cols-2 gap-x-3 gap-y-2">
          <Pick
            label="Pipe"
            className="col-span-2"
            options={[
              ["", `the ${drain ? "crew's yard drain" : "job's"}: ${house?.name}`],
              ...offered.map((s) => [s.id, s.name] as const),
            ]}
            value={run.series ?? ""}
            onPick={(v) => set({ series: v || null, size: null })}
          />
          <Pick
            label="Size"
            options={[
              ["", run.existing ? "not measured" : `worked out${choice && !run.size ? `: ${choice.size}` : ""}`],
              ...(series?.sizes.map((s) => [s.size, s.size] as const) ?? []),
            ]}
            value={run.size ?? ""}
            onPick={(v) => set({ size: v || null, series: run.series ?? series?.id ?? null })}
          />
          <Pick
            label="Lies"
            options={reference.situations.map((s) => [s, s] as const)}
            value={run.situation}
            onPick={(v) => set({ situation: v as Run["situation"] })}
          />
          <Typed
            label="Length by the tape"
            quantity="length"
            value={run.measured_length}
            hint={line ? `drawn: ${format.bare(line.drawn, "length")}` : ""}
            low={reference.least_length}
            limits={`a run is at least ${format(reference.least_length, "cut")} long`}
            onValue={(measured_length) => set({ measured_length })}
            onClear={() => set({ measured_length: null })}
          />
          <Typed
            label="Insulated by"
            quantity="takeoff"
            value={run.lagging}
            low={0}
            high={0.3}
            onValue={(lagging) => set({ lagging })}
          />
        </div>
      )}
      <RunPorts run={run} />
      {!run.coupled && <Met existing={run.existing} onExisting={(existing) => set({ existing })} what="this pipe" />}
      {!run.existing && plan.leaving.some((x) => x.what === "old") && (
        <p className="mt-2 text-[0.875rem]">
          The old pipe stays in use until the changeover: its order is worked out in Make.
        </p>
      )}
      {run.existing && !run.coupled && (
        <p className="mt-2">
          <Button onClick={replace}>New pipe takes its place</Button>
          {says && <span role="status"> {says}</span>}
        </p>
      )}
      {!run.coupled && run.situation === "buried" && (
        <Check
          label="Wheels go over it: a drive, a gateway"
          checked={run.wheels}
          onChange={(e) => set({ wheels: e.target.checked })}
        />
      )}
      <Check
        label="No pipe between: screwed or pushed together, port to port"
        checked={run.coupled}
        onChange={(e) => set({ coupled: e.target.checked })}
      />
      {series && !run.coupled && !series.situations.includes(run.situation) && (
        <Box tone="dry">
          {series.name} is not for a run {run.situation}: {series.caution}.
        </Box>
      )}
      {choice && !run.coupled && (
        <p className="mt-2">
          Size {choice.size}: {choice.says}.
        </p>
      )}
      {run.closed > 0 && (
        <p className="mt-2 flex flex-wrap items-center gap-2">
          <span className="grow">Joints in it have closed: they lose as K = {run.closed.toFixed(2)} would.</span>
          <Button onClick={() => set({ closed: 0 })}>They are cut out</Button>
        </p>
      )}
      <Problems problems={problems.filter((p) => p.where === run.id)} />
      {!run.coupled && series && (run.size || choice?.size) && (
        <p className="mt-2">
          <ToBench
            className="text-water underline"
            href={repairOf({
              series: series.id,
              size: run.size ?? choice?.size ?? "",
              situation: run.situation,
              of: run.id,
            })}
          >
            It broke: how is it mended?
          </ToBench>
        </p>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        <Button
          onClick={() =>
            edit((p) => {
              const [next, point] = splitRun(p, reference, derived.lines, run.id, "bend", 0.5);
              select(point.id);
              return next;
            })
          }
        >
          Split in the middle
        </Button>
        <Button
          tone="dry"
          onClick={() => {
            select(null);
            edit((p) => removeRun(p, run.id));
          }}
        >
          Delete this run
        </Button>
      </div>
    </section>
  );
}

/** Which port of each thing the run comes to, where there is a choice. */
function RunPorts({ run }: { run: Run }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const sides = (["a", "b"] as const).flatMap((side) => {
    const point = plan.points.find((p) => p.id === run[side].point);
    const ports = point ? portsOf(reference, point.what) : [];
    return point && ports.length > 1 ? [{ side, point, ports }] : [];
  });
  if (!sides.length) return null;
  return (
    <div className="mt-2 grid grid-cols-2 gap-x-3">
      {sides.map(({ side, point, ports }) => (
        <Pick
          key={side}
          label={`At ${nameOf(reference, point)}, the port`}
          options={[
            ...(ports.some((p) => p.name === run[side].port) ? [] : [["", "not chosen"] as const]),
            ...ports.map((p) => [p.name, p.title] as const),
          ]}
          value={run[side].port}
          onPick={(port) => port && edit((p) => changeRun(p, run.id, { [side]: { ...run[side], port } }))}
        />
      ))}
    </div>
  );
}
