import { useState } from "react";
import { api, Refused } from "../api/client";
import type { Plan, PlanProblem, Stage } from "../api/types";
import { useProblems, useReadyJob, useSaved } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { Box, Button, Heading } from "../ui/parts";

const words = { stop: "Error", warn: "Warning", note: "Note" } as const;

/** What is to be mended in a stage, and in sizing and joining also what the drawing lacks for them. */
export function StageProblems({ stage }: { stage: Stage }) {
  const problems = useProblems();
  const lacks = stage === "size" || stage === "join";
  const mine = (p: PlanProblem) =>
    p.stage === stage || p.danger || (lacks && p.stage === "survey" && p.severity === "stop");
  return <Problems problems={problems.filter(mine)} />;
}

/** What is not to be built so, where nothing else that is wrong is told. */
export function Dangers() {
  return <Problems problems={useProblems().filter((p) => p.danger)} />;
}

const rank = { stop: 0, warn: 1, note: 2 } as const;
/** Problems shown before all are asked for: the worst come first. */
const MANY = 30;

/** Causes, the worst first, each with what follows from it. */
function folded(problems: readonly PlanProblem[]) {
  const there = new Set(problems.map(key));
  const after = new Map<string, PlanProblem[]>();
  for (const p of problems) if (there.has(p.follows)) after.set(p.follows, [...(after.get(p.follows) ?? []), p]);
  return problems
    .filter((p) => !there.has(p.follows))
    .map((cause) => {
      const then = [...(after.get(key(cause)) ?? [])].sort((a, b) => rank[a.severity] - rank[b.severity]);
      const worst = [cause, ...then].reduce((a, b) => (rank[b.severity] < rank[a.severity] ? b : a)).severity;
      return { cause, then, worst };
    })
    .sort((a, b) => rank[a.worst] - rank[b.worst] || rank[a.cause.severity] - rank[b.cause.severity]);
}

/** Problems in place: each says what is wrong and how to mend it, and leads to where it is. */
export function Problems({ problems }: { problems: readonly PlanProblem[] }) {
  const [all, setAll] = useState(false);
  if (!problems.length) return null;
  const causes = folded(problems);
  return (
    <section aria-label="Problems">
      <Heading note={`${causes.length}`}>Problems</Heading>
      {causes.slice(0, all ? causes.length : MANY).map(({ cause, then, worst }) => (
        <Box
          key={`${cause.code}${cause.where}${cause.says}`}
          tone={({ note: "water", warn: "dry", stop: "fault" } as const)[worst]}
        >
          <p className="text-[0.78125rem] text-muted">
            {cause.danger ? "Danger: do not build it like this" : words[worst]}
          </p>
          <One problem={cause} />
          <Following problems={then} />
        </Box>
      ))}
      {!all && causes.length > MANY && <Button onClick={() => setAll(true)}>Show all {causes.length}</Button>}
    </section>
  );
}

const key = (p: PlanProblem) => `${p.code} ${p.where}`;

function One({ problem }: { problem: PlanProblem }) {
  const select = useJob((s) => s.select);
  return (
    <>
      <p className="font-semibold">{problem.title || problem.says}</p>
      {problem.detail && <p>{problem.detail}</p>}
      <p>{problem.mend}</p>
      {problem.does && <Mend problem={problem} />}
      {problem.where && (
        <button
          type="button"
          className={`text-water underline pointer-coarse:min-h-[44px] ${problem.does ? "ml-2" : ""}`}
          onClick={() => select(problem.where)}
        >
          Show me
        </button>
      )}
    </>
  );
}

type Tried =
  | { kind: "not yet" }
  | { kind: "tried"; revision: number; plan: Plan; goes: string[]; comes: string[] }
  | { kind: "failed"; says: string };

/** A problem's one plain mend: pressed once it shows what it would do, pressed again it is done, and undone like any edit. */
function Mend({ problem }: { problem: PlanProblem }) {
  const { job } = useReadyJob();
  const saved = useSaved();
  const edit = useJob((s) => s.edit);
  const [tried, setTried] = useState<Tried>({ kind: "not yet" });
  const attempt = async () => {
    try {
      setTried({ kind: "tried", ...(await api.mend(job.id, key(problem))) });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setTried({ kind: "failed", says: error.problem.detail });
    }
  };
  if (tried.kind === "tried")
    return (
      <div className="my-1 border-l-2 border-water pl-2">
        {tried.goes.length > 0 && <p>Goes: {tried.goes.join(" ")}</p>}
        {tried.comes.length > 0 && <p>Comes: {tried.comes.join(" ")}</p>}
        {!tried.goes.length && !tried.comes.length && <p>Nothing else that is told changes.</p>}
        <div className="mt-1 flex gap-2">
          <Button
            tone="main"
            disabled={!saved || tried.revision !== job.revision}
            onClick={() => {
              edit(() => tried.plan);
              setTried({ kind: "not yet" });
            }}
          >
            Do it
          </Button>
          <Button tone="quiet" onClick={() => setTried({ kind: "not yet" })}>
            Leave it
          </Button>
        </div>
      </div>
    );
  return (
    <>
      <Button className="my-1" disabled={!saved} onClick={() => void attempt()}>
        {problem.does} …
      </Button>
      {tried.kind === "failed" && <p className="text-fault">{tried.says}</p>}
    </>
  );
}

/** What goes away with the problem above it. */
function Following({ problems }: { problems: readonly PlanProblem[] }) {
  if (!problems.length) return null;
  return (
    <details className="mt-1">
      <summary className="cursor-pointer text-[0.875rem] pointer-coarse:min-h-[44px]">
        {problems.length === 1 ? "One more" : `${problems.length} more`} of the same cause
      </summary>
      <ul className="mt-1 border-l-2 border-line pl-2">
        {problems.map((p) => (
          <li key={`${p.code}${p.where}${p.says}`} className="mb-1">
            <One problem={p} />
          </li>
        ))}
      </ul>
    </details>
  );
}
