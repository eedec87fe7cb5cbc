import { useState } from "react";
import { api } from "../../api/client";
import { useAsked } from "../../job/asked";
import { useReadyJob } from "../../job/hooks";
import { nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Button, Pick } from "../../ui/parts";

const BY = [
  ["even", "an even fall between the two levels"],
  ["slope", "a slope from the first"],
  ["ground", "as deep as the first, with the ground"],
] as const;

/** Levels of a whole line at once: graded evenly, to a slope, or with the ground. */
export function Levels() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const { says, ask } = useAsked();
  const [ends, setEnds] = useState<[string, string]>(["", ""]);
  const [by, setBy] = useState<(typeof BY)[number][0]>("even");
  const [slope, setSlope] = useState("1 in 70");
  if (plan.points.length < 2) return null;
  const names = plan.points.map((p) => [p.id, nameOf(reference, p)] as const);
  const has = (id: string, other: number) =>
    plan.points.some((p) => p.id === id) ? id : (plan.points.at(other)?.id ?? "");
  const [start, stop] = [has(ends[0], 0), has(ends[1], -1)];
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
    </details>
  );
}
