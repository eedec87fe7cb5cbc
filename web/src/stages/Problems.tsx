import type { PlanProblem } from "../api/types";
import { useReference } from "../app/context";
import { useJob, useReadyJob } from "../app/jobStore";
import type { Stage } from "../drawing/dress";
import { Box, Heading } from "../ui/parts";

const words = { stop: "cannot be worked out", warn: "needs mending", note: "to know" } as const;

/** What is to be mended in a stage, and in sizing and joining also what the drawing lacks for them. */
export function StageProblems({ stage }: { stage: Stage }) {
  const { problems } = useReadyJob().job.derived;
  const lacks = stage === "size" || stage === "join";
  const of = useReference().problem_stages;
  const mine = (p: PlanProblem) => of[p.code] === stage || (lacks && of[p.code] === "survey" && p.severity === "stop");
  return <Problems problems={problems.filter(mine)} />;
}

/** Problems in place: each says what is wrong and how to mend it, and leads to where it is. */
export function Problems({ problems }: { problems: readonly PlanProblem[] }) {
  const select = useJob((s) => s.select);
  if (!problems.length) return null;
  const rank = { stop: 0, warn: 1, note: 2 };
  const sorted = [...problems].sort((a, b) => rank[a.severity] - rank[b.severity]);
  return (
    <section aria-label="Problems">
      <Heading note={`${problems.length}`}>To see to</Heading>
      {sorted.map((p) => (
        <Box
          key={`${p.code}${p.where}${p.says}`}
          tone={p.severity === "note" ? "water" : p.severity === "stop" ? "fault" : "dry"}
        >
          <p className="text-[12.5px] text-muted">{words[p.severity]}</p>
          <p className="font-semibold">{p.says}</p>
          <p>{p.mend}</p>
          {p.where && (
            <button
              type="button"
              className="text-water underline pointer-coarse:min-h-[44px]"
              onClick={() => select(p.where)}
            >
              Show me
            </button>
          )}
        </Box>
      ))}
    </section>
  );
}
