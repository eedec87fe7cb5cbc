import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, Refused } from "../api/client";
import type { ProblemDocument } from "../api/types";
import { addExtras } from "../job/edits";
import { Said } from "../ui/Messages";
import { Button, Pick } from "../ui/parts";

type State = { kind: "idle" } | { kind: "added"; job: string } | { kind: "failed"; problem: ProblemDocument };

/** Put the parts of a way on a job's list. */
export function AddToJob({ fittings, note }: { fittings: readonly string[]; note: string }) {
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs });
  const [chosen, setChosen] = useState("");
  const [state, setState] = useState<State>({ kind: "idle" });
  const job = chosen || jobs.data?.[0]?.id || "";
  if (!fittings.length || !jobs.data?.length) return null;
  const add = async () => {
    try {
      const view = await api.job(job, "survey");
      await api.savePlan(job, view.revision, addExtras(view.plan, fittings, note), "survey");
      setState({ kind: "added", job });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setState({ kind: "failed", problem: error.problem });
    }
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 print:hidden">
      <Pick
        label="Add the parts to"
        options={jobs.data.map((j) => [j.id, j.name] as const)}
        value={job}
        onPick={setChosen}
      />
      <Button onClick={() => void add()}>Add</Button>
      {state.kind === "added" && (
        <p role="status">
          On the list.{" "}
          <Link className="text-water underline" href={`/job/${state.job}/join`}>
            See it in Join
          </Link>
        </p>
      )}
      {state.kind === "failed" && <Said problem={state.problem} />}
    </div>
  );
}
