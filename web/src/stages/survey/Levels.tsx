import { useState } from "react";
import { api } from "../../api/client";
import type { Plan } from "../../api/types";
import { useAsked } from "../../job/asked";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Button, Pick } from "../../ui/parts";

const BY = [
  ["even", "an even fall between the two levels"],
  ["slope", "a slope from the first"],
  ["ground", "as deep as the first, with the ground"],
] as const;

/** How a line is laid by its rule. */
const laid = ({ by, slope }: Plan["rules"][number]) =>
  by === "slope"
    ? slope > 0
      ? `falls 1 in ${Number((1 / slope).toPrecision(3))}`
      : "by a slope of its own"
    : by === "even"
      ? "an even fall"
      : "as deep as at its beginning";

/** Levels of a whole line at once: graded evenly, to a slope, or with the ground. */
export function Levels() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const { says, ask } = useAsked();
  const [ends, setEnds] = useState<[string, string]>(["", ""]);
  const [by, setBy] = useState<(typeof BY)[number][0]>("even");
  const [slope, setSlope] = useState("1 in 70");
  if (plan.points.length < 2) return null;
  const names = plan.points.map((p) => [p.id, nameOf(reference, p)] as const);
  const has = (id: string, other: number) =>
    plan.points.some((p) => p.id === id) ? id : (plan.points.at(other)?.id ?? "");
  const [start, stop] = [has(ends[0], 0), has(ends[1], -1)];
  const called = (id: string) => names.find(([point]) => point === id)?.[1] ?? "";
  const grade = () => ask((before) => api.grade(before, start, stop, by, by === "slope" ? slope : ""));
  return (
    <details className="mt-3 border-b border-line pb-2">
      <summary className="min-h-[32px] cursor-pointer font-semibold pointer-coarse:min-h-[44px]">
        Levels of a whole line
      </summary>
      <form
        className="mt-1 grid grid-cols-2 items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void grade();
        }}
      >
        <Pick label="Line from" options={names} value={start} onPick={(v) => setEnds((was) => [v, was[1]])} />
        <Pick label="Line to" options={names} value={stop} onPick={(v) => setEnds((was) => [was[0], v])} />
        <Pick label="Laid" options={BY} value={by} onPick={(v) => setBy(v as typeof by)} className="col-span-2" />
        {by === "slope" && (
          <label className="flex flex-col text-[0.8125rem] text-muted">
            Falling
            <input
              value={slope}
              className="min-h-[38px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
              onChange={(e) => setSlope(e.target.value)}
            />
          </label>
        )}
        <Button type="submit" disabled={start === stop}>
          Set the levels
        </Button>
      </form>
      {says && <p role="status">{says}</p>}
      {plan.rules.length > 0 && (
        <ul className="mt-2" aria-label="Lines that keep a rule">
          {plan.rules.map((r) => (
            <li key={`${r.start} ${r.stop}`} className="flex flex-wrap items-center gap-2 border-b border-line py-1">
              <span className="grow">
                {called(r.start)} to {called(r.stop)}: {laid(r)}
              </span>
              <Button onClick={() => edit((p) => ({ ...p, rules: p.rules.filter((x) => x !== r) }))}>
                Let the rule go
              </Button>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}
