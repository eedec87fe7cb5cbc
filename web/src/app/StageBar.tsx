import { useEffect, useRef } from "react";
import { Link } from "wouter";
import type { Stage } from "../api/types";
import { stages } from "../drawing/dress";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";

const names: Record<Stage, string> = {
  survey: "Survey",
  size: "Size",
  join: "Join",
  cut: "Cut",
  make: "Make",
  prove: "Test",
  keep: "Record",
};

export const stageTitle = (stage: Stage): string => names[stage];

/** The stages as a length of pipe with couplings between; each fills as it is done. */
export function StageBar({ stage }: { stage: Stage }) {
  const { job } = useReadyJob();
  const bar = useRef<HTMLOListElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stage is what moves the bar
  useEffect(() => {
    bar.current?.querySelector('[aria-current="step"]')?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [stage]);
  const progress = useJob((s) => s.progress);
  const done = (s: Stage) => progress?.stages[s] ?? 0;
  return (
    <nav aria-label="Stages" className="px-2 pt-2 small:pt-0 lg:px-5">
      <ol ref={bar} className="flex items-center overflow-x-auto py-1 small:py-0.5">
        {stages.map((s, i) => (
          <li key={s} className="flex min-w-[4.600rem] flex-1 items-center">
            {i > 0 && (
              <span
                aria-hidden="true"
                className="z-10 -mx-[5px] h-9 w-3 shrink-0 rounded-[3px] border-2 border-ink bg-panel"
              />
            )}
            <Link
              href={`/job/${job.id}/${s}`}
              aria-current={s === stage ? "step" : undefined}
              className="relative flex h-7 w-full items-center justify-center overflow-hidden border-y-2 border-ink bg-panel font-semibold aria-[current=step]:bg-ink aria-[current=step]:text-panel pointer-coarse:h-11"
            >
              {s !== stage && (
                <span
                  aria-hidden="true"
                  className="absolute inset-y-[3px] left-0 bg-water-soft"
                  style={{ width: `${done(s) * 100}%` }}
                />
              )}
              <span className="relative">{names[s]}</span>
              <span className="sr-only">, {Math.round(done(s) * 100)} % done</span>
            </Link>
          </li>
        ))}
      </ol>
    </nav>
  );
}
