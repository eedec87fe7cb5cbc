import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { DrainMaterial } from "../../api/types";
import { useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { money } from "../../ui/format";
import { Button, Heading } from "../../ui/parts";

/** The job's drains in each material that drains are laid in, side by side; one of them is the crew standard. */
export function DrainPipe() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["drain-pipe", job.id, job.revision],
    queryFn: () => api.drainPipe(job.id),
    enabled: open && saved,
    retry: false,
  });
  return (
    <section aria-label="Drain pipe side by side">
      <Heading>Drain pipe side by side</Heading>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Compare drain pipe for this job"}
      </Button>
      {open && query.isFetching && <p role="status">laying it out in each …</p>}
      {open && query.isError && (
        <p className="text-fault">
          {query.error instanceof Refused ? query.error.problem.detail : query.error.message}
        </p>
      )}
      {open && query.data?.map((m) => <Material key={m.choice} of={m} />)}
    </section>
  );
}

function Material({ of: m }: { of: DrainMaterial }) {
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const share = (x: number) => `${(x * 100).toFixed(1)} %`;
  const facts = [
    m.price === null
      ? "No price known"
      : `${money(m.price)} for pipe and fittings${m.own ? "" : ", by starting prices in part or all"}${m.unpriced ? `, ${m.unpriced} not priced` : ""}`,
    `${m.joints} ${m.joints === 1 ? "joint" : "joints"} in ${format(m.length, "length")}: roots get in at joints`,
    m.oval === null
      ? "Nothing of it lies in the ground, or it comes up there"
      : `Pressed in ${share(m.oval[0])} in loose fill, ${share(m.oval[1])} in tamped${m.wheels ? ", under wheels" : ""}; 5 % is the limit`,
    m.bends ? "Follows a crooked trench" : "Needs a straight trench",
    m.later ? `A branch later: ${m.later}` : "A branch later: no way with what is sold here",
  ];
  return (
    <section aria-label={m.school} className="mt-2 border-b border-line pb-2">
      <h3 className="font-semibold first-letter:uppercase">
        {m.school}
        {m.chosen && <span className="ml-2 text-[0.875rem] text-muted">as it is drawn</span>}
        {!m.chosen && m.usual && <span className="ml-2 text-[0.875rem] text-muted">usual</span>}
      </h3>
      <p>
        {m.sold ? m.pipe : `Not sold here. What is sold in its place is ${m.pipe}`}. {m.reason} {m.floor}
      </p>
      {m.sold && (
        <ul className="ml-4 list-disc text-[0.875rem]">
          {facts.map((f) => (
            <li key={f}>{f}</li>
          ))}
          {m.against.map((a) => (
            <li key={a} className="text-fault">
              {a}
            </li>
          ))}
        </ul>
      )}
      {m.sold && !m.chosen && (
        <Button
          className="mt-1"
          onClick={() => edit((plan) => ({ ...plan, practices: { ...plan.practices, drain: m.choice } }))}
        >
          Take it where no pipe is chosen
        </Button>
      )}
    </section>
  );
}
