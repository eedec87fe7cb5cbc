import type { PlanProblem, Stage } from "../api/types";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { Box, Heading } from "../ui/parts";

const words = { stop: "cannot be worked out", warn: "needs mending", note: "to know" } as const;

/** What is to be mended in a stage, and in sizing and joining also what the drawing lacks for them. */
export function StageProblems({ stage }: { stage: Stage }) {
  const { derived } = useReadyJob();
  const lacks = stage === "size" || stage === "join";
  const mine = (p: PlanProblem) => p.stage === stage || (lacks && p.stage === "survey" && p.severity === "stop");
  return <Problems problems={derived.problems.filter(mine)} />;
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
