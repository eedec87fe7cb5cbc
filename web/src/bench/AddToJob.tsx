import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, Refused } from "../api/client";
import type { Plan, ProblemDocument, Run, Stage } from "../api/types";
import { bench } from "../job/benchPlace";
import { addExtras, changeRun } from "../job/edits";
import { savePlan } from "../job/saving";
import { Said } from "../ui/Messages";
import { Button, Pick } from "../ui/parts";

type State = { kind: "idle" } | { kind: "added"; job: string } | { kind: "failed"; problem: ProblemDocument };

/** Put the parts of a way on a job's list. */
export function AddToJob({ fittings, note }: { fittings: readonly string[]; note: string }) {
  if (!fittings.length) return null;
  return (
    <SendToJob
      label="Add the parts to"
      verb="Add"
      done="On the list."
      stage="join"
      change={async (plan) => addExtras(plan, fittings, note)}
    />
  );
}

type Sending = {
  label: string;
  verb: string;
  done: string;
  stage: Stage;
  /** What of the job it is for, where there is a choice. */
  of?: (plan: Plan) => readonly (readonly [string, string])[];
  change: (plan: Plan, of: string) => Promise<Plan>;
};

const named = (plan: Plan, id: string) => plan.points.find((p) => p.id === id)?.name || id;

/** The runs of a job by where they go, to send a size or a length to one. */
export const runsOf = (plan: Plan) =>
  plan.runs
    .filter((r) => !r.coupled)
    .map((r) => [r.id, `${named(plan, r.a.point)} to ${named(plan, r.b.point)}`] as const);

/** Change one run of a job. */
export const onRun = (change: Partial<Run>) => async (plan: Plan, id: string) => changeRun(plan, id, change);

/** Change a job from the bench: a job is chosen, the change made on its newest revision, and the way there shown. */
export function SendToJob({ label, verb, done, stage, of, change }: Sending) {
  const all = useQuery({ queryKey: ["jobs"], queryFn: api.jobs });
  const jobs = all.data?.filter((j) => j.shelf === "list") ?? [];
  const [chosen, setChosen] = useState("");
  const [state, setState] = useState<State>({ kind: "idle" });
  const [mine, setMine] = useState("");
  const from = bench.job();
  const job = chosen || jobs.find((j) => j.id === from)?.id || jobs[0]?.id || "";
  const opened = useQuery({
    queryKey: ["bench job", job],
    queryFn: () => api.job(job, "survey"),
    enabled: of !== undefined && job !== "",
  });
  const choices = of && opened.data ? of(opened.data.plan) : [];
  const at = choices.some(([id]) => id === mine) ? mine : (choices[0]?.[0] ?? "");
  if (!jobs.length) return null;
  const add = async () => {
    try {
      const view = await api.job(job, "survey");
      await savePlan(job, view.revision, await change(view.plan, at), view.plan, "survey");
      setState({ kind: "added", job });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setState({ kind: "failed", problem: error.problem });
    }
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 print:hidden">
      <Pick label={label} options={jobs.map((j) => [j.id, j.name] as const)} value={job} onPick={setChosen} />
      {of && choices.length > 0 && <Pick label="for" options={choices} value={at} onPick={setMine} />}
      {of && opened.data && !choices.length && <p className="text-muted">There is none to send it to in that job.</p>}
      <Button disabled={of !== undefined && !choices.length} onClick={() => void add()}>
        {verb}
      </Button>
      {state.kind === "added" && (
        <p role="status">
          {done}{" "}
          <Link className="text-water underline" href={`/job/${state.job}/${stage}`}>
            See it in {stage.charAt(0).toUpperCase() + stage.slice(1)}
          </Link>
        </p>
      )}
      {state.kind === "failed" && <Said problem={state.problem} />}
    </div>
  );
}
