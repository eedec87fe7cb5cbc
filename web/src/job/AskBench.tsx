import { Dialog } from "radix-ui";
import { useState } from "react";
import { useLocation } from "wouter";
import { DialogFrame } from "../ui/DialogFrame";
import { Button } from "../ui/parts";
import { askedAt, bench } from "./benchPlace";
import { useReadyJob } from "./hooks";

/** A question typed in a job as it is said, answered at the bench in the job's units and market. */
export function AskBench() {
  const { job, plan } = useReadyJob();
  const [, go] = useLocation();
  const [said, setSaid] = useState("");
  return (
    <Dialog.Root>
      <Dialog.Trigger asChild>
        <Button tone="quiet">Ask</Button>
      </Dialog.Trigger>
      <DialogFrame title="Ask the bench" close="Close">
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (!said.trim()) return;
            bench.openedFrom(job.id, plan.units, plan.conditions?.market ?? "both");
            go(askedAt(said.trim()));
          }}
        >
          <label className="flex flex-col gap-1">
            A joint, a size, a cut, a wait: as you would say it
            <input
              value={said}
              placeholder="branch 3/4 off 2 in pvc, nothing cut yet"
              autoComplete="off"
              className="min-h-[48px] rounded-[4px] border border-edge bg-panel px-2 text-[1rem] text-ink"
              onChange={(e) => setSaid(e.target.value)}
            />
          </label>
          <Button type="submit" tone="main" className="mt-3" disabled={!said.trim()}>
            Ask
          </Button>
        </form>
      </DialogFrame>
    </Dialog.Root>
  );
}
