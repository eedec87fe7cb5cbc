import type { Run } from "../../api/types";
import { useFormat, useReference } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { Box, Button, Heading, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { Problems } from "../Problems";
import { changeRun, removeRun, splitRun } from "../planEdit";

/** One run: where it lies, its pipe, and its length by the tape. */
export function RunForm({ run }: { run: Run }) {
  const { job, plan } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const set = (change: Partial<Run>) => edit((p) => changeRun(p, run.id, change));
  const [a, b] = [run.a, run.b].map((id) => plan.points.find((p) => p.id === id));
  const series = reference.series.find((s) => s.id === (run.series ?? job.derived.sizes.choices[run.id]?.series));
  const choice = job.derived.sizes.choices[run.id];
  const line = job.derived.layout.lines[run.id];
  const used = reference.series.find((s) => s.id === choice?.series);
  const drain = used?.kind === "drain";
  const house = drain ? used : reference.series.find((s) => s.id === plan.conditions.series);
  return (
    <section aria-label={`Run ${run.id}`}>
      <Heading
        note={
          <Button tone="quiet" onClick={() => select(null)}>
            Back to the list
          </Button>
        }
      >
        {a?.name || run.a} to {b?.name || run.b}
      </Heading>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Pick
          label="Pipe"
          className="col-span-2"
          options={[
            ["", `the ${drain ? "crew's yard drain" : "job's"}: ${house?.name}`],
            ...reference.series
              .filter((s) => s.kind === (drain ? "drain" : "pressure"))
              .map((s) => [s.id, s.name] as const),
          ]}
          value={run.series ?? ""}
          onPick={(v) => set({ series: v || null, size: null })}
        />
        <Pick
          label="Size"
          options={[
            ["", `worked out${choice && !run.size ? `: ${choice.size}` : ""}`],
            ...(series?.sizes.map((s) => [s.size, s.size] as const) ?? []),
          ]}
          value={run.size ?? ""}
          onPick={(v) => set({ size: v || null, series: run.series ?? house?.id ?? null })}
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
          value={run.measured_length ?? null}
          hint={line ? `drawn: ${format.bare(line.drawn, "length")}` : ""}
          onValue={(measured_length) => set({ measured_length })}
          onClear={() => set({ measured_length: null })}
        />
      </div>
      {series && !series.situations.includes(run.situation) && (
        <Box tone="dry">
          {series.name} is not for a run {run.situation}: {series.caution}.
        </Box>
      )}
      {choice && (
        <p className="mt-2">
          Size {choice.size}: {choice.says}.
        </p>
      )}
      <Problems problems={job.derived.problems.filter((p) => p.where === run.id)} />
      <div className="mt-3 flex gap-2">
        <Button
          onClick={() =>
            a &&
            b &&
            edit((p) => {
              const [next, point] = splitRun(p, reference, run.id, "bend", { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 });
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
