import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, Refused } from "../api/client";
import type { Plan, ProblemDocument } from "../api/types";
import { addExtras } from "../job/edits";
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
  stage: "survey" | "join";
  change: (plan: Plan) => Promise<Plan>;
};

/** Change a job from the bench: a job is chosen, the change made on its newest revision, and the way there shown. */
export function SendToJob({ label, verb, done, stage, change }: Sending) {
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs });
  const [chosen, setChosen] = useState("");
  const [state, setState] = useState<State>({ kind: "idle" });
  const job = chosen || jobs.data?.[0]?.id || "";
  if (!jobs.data?.length) return null;
  const add = async () => {
    try {
      const view = await api.job(job, "survey");
      await api.savePlan(job, view.revision, await change(view.plan), "survey");
      setState({ kind: "added", job });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setState({ kind: "failed", problem: error.problem });
    }
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 print:hidden">
      <Pick label={label} options={jobs.data.map((j) => [j.id, j.name] as const)} value={job} onPick={setChosen} />
      <Button onClick={() => void add()}>{verb}</Button>
      {state.kind === "added" && (
        <p role="status">
          {done}{" "}
          <Link className="text-water underline" href={`/job/${state.job}/${stage}`}>
            See it in {stage === "join" ? "Join" : "Survey"}
          </Link>
        </p>
      )}
      {state.kind === "failed" && <Said problem={state.problem} />}
    </div>
  );
}
