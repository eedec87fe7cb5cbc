import type { PlanProblem } from "../api/types";
import { useJob } from "../app/jobStore";
import { Box, Heading } from "../ui/parts";

const words = { stop: "cannot be worked out", warn: "needs mending", note: "to know" } as const;

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
