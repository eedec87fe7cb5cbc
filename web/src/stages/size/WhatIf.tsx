import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { FieldView, Plan, Point, Run } from "../../api/types";
import { changeRun, changeWhat } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { fieldsOf, nameOf, tells } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { money } from "../../ui/format";
import { Box, Button, Heading, Row, Table } from "../../ui/parts";

/** Drag a number of the point chosen and see all answers move; nothing is kept until you say so. */
export function WhatIf({ point }: { point: Point }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const [tried, setTried] = useState<Record<string, number>>({});
  const what = fieldsOf(point.what);
  const fields = (reference.kinds.find((k) => k.kind === point.what.kind)?.fields ?? []).filter(
    (f) => f.quantity && typeof what[f.name] === "number" && tells(point.what, f),
  );
  if (!fields.length) return null;
  return (
    <section aria-label="What if">
      <Heading note={note}>What if, at {nameOf(reference, point)}</Heading>
      {fields.map((f) => (
        <Slider
          key={f.name}
          field={f}
          now={what[f.name] as number}
          value={tried[f.name] ?? (what[f.name] as number)}
          onValue={(v) => setTried((t) => ({ ...t, [f.name]: v }))}
        />
      ))}
      {Object.keys(tried).length > 0 && (
        <Trial
          then={changeWhat(plan, point.id, tried)}
          onKeep={() => {
            edit((p) => changeWhat(p, point.id, tried));
            setTried({});
          }}
          onBack={() => setTried({})}
        />
      )}
    </section>
  );
}

/** Drag the size of the run chosen through all that its pipe is made in, and see the same. */
export function WhatIfSize({ run }: { run: Run }) {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const choice = derived.sizes.choices[run.id];
  const sizes = reference.series.find((s) => s.id === choice?.series)?.sizes.map((s) => s.size) ?? [];
  const now = sizes.indexOf(choice?.size ?? "");
  const [at, setAt] = useState<number | null>(null);
  if (!choice || now < 0 || sizes.length < 2) return null;
  const wanted = { series: choice.series, size: sizes[at ?? now] ?? choice.size };
  return (
    <section aria-label="What if">
      <Heading note={note}>What if it were another size</Heading>
      <label className="mt-1 grid grid-cols-[minmax(0,9rem)_minmax(0,1fr)_5.5rem] items-center gap-2 text-[0.875rem]">
        Try
        <input
          type="range"
          min={0}
          max={sizes.length - 1}
          step={1}
          value={at ?? now}
          className="min-h-[36px] w-full min-w-0 accent-water pointer-coarse:min-h-[44px]"
          aria-valuetext={wanted.size}
          onChange={(e) => setAt(Number(e.target.value))}
        />
        <output className="text-right">{wanted.size}</output>
      </label>
      {at !== null && at !== now && (
        <Trial
          then={changeRun(plan, run.id, wanted)}
          onKeep={() => {
            edit((p) => changeRun(p, run.id, wanted));
            setAt(null);
          }}
          onBack={() => setAt(null)}
        />
      )}
    </section>
  );
}

const note = "nothing is kept until you say so";

/** All that would change with a plan that is only tried. */
function Trial({ then, onKeep, onBack }: { then: Plan; onKeep: () => void; onBack: () => void }) {
  const { job } = useReadyJob();
  const format = useFormat();
  const spare = `to spare, ${format.unit("pressure")}`;
  const trial = useDeferredValue(then);
  const query = useQuery({
    queryKey: ["what if", job.id, job.revision, trial],
    queryFn: () => api.whatIf(job.id, trial),
    placeholderData: (before) => before,
  });
  if (query.isError) return <p className="text-fault">{query.error.message}</p>;
  if (!query.data) return null;
  return (
    <>
      <Table caption="What would change" head={["scenario", "worst now", spare, "worst then", spare]} numbers={[2, 4]}>
        {query.data.outcomes.map((o) => (
          <Row key={o.scenario}>
            <td>{o.scenario}</td>
            <td>{o.worst_before}</td>
            <td className="text-right">{format.bare(o.margin_before, "pressure")}</td>
            <td>{o.worst_after}</td>
            <td className={`text-right ${o.short_after ? "font-bold text-dry" : ""}`}>
              {format.bare(o.margin_after, "pressure")}
            </td>
          </Row>
        ))}
      </Table>
      <Box tone={query.data.worse ? "dry" : "proved"}>
        <p>{query.data.says}</p>
        Fittings and pipe {money(query.data.price_before)} → {money(query.data.price_after)}
        {query.data.sizes.length > 0 && `; ${query.data.sizes.length} runs would get another size`}.
      </Box>
      <div className="flex gap-2">
        <Button tone="main" onClick={onKeep}>
          Keep it
        </Button>
        <Button onClick={onBack}>Restore</Button>
      </div>
    </>
  );
}

function Slider({
  field,
  now,
  value,
  onValue,
}: {
  field: FieldView;
  now: number;
  value: number;
  onValue: (v: number) => void;
}) {
  const format = useFormat();
  const share = field.quantity === "ratio";
  const span = share ? 0.5 : Math.max(Math.abs(now), 1e-6);
  const wide: [number, number] = field.quantity === "level" ? [now - 20, now + 20] : [now - 0.8 * span, now + span];
  const low = Math.max(field.low ?? wide[0], wide[0]);
  const high = Math.min(field.high ?? wide[1], wide[1]);
  return (
    <label className="mt-1 grid grid-cols-[minmax(0,9rem)_minmax(0,1fr)_5.5rem] items-center gap-2 text-[0.875rem]">
      {field.label}
      <input
        type="range"
        min={low}
        max={high}
        step={(high - low) / 60}
        value={value}
        className="min-h-[36px] w-full min-w-0 accent-water pointer-coarse:min-h-[44px]"
        aria-valuetext={share ? value.toFixed(2) : format(value, field.quantity ?? "")}
        onChange={(e) => onValue(Number(e.target.value))}
      />
      <output className="text-right">{share ? value.toFixed(2) : format(value, field.quantity ?? "")}</output>
    </label>
  );
}
