import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import { useReadyJob, useSaved } from "../../job/hooks";
import { Button, Heading } from "../../ui/parts";

/** A line that closes a loop, beside the same outlets on a tree. */
export function LoopOrTree() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["looped", job.id, job.revision],
    queryFn: () => api.looped(job.id),
    enabled: open && saved,
    retry: false,
  });
  return (
    <section aria-label="Loop or branch">
      <Heading>Loop or branch</Heading>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Set the loop beside a tree"}
      </Button>
      {open && query.isFetching && <p role="status">working both out …</p>}
      {open && query.isError && (
        <p className="text-fault">
          {query.error instanceof Refused ? query.error.problem.detail : query.error.message}
        </p>
      )}
      {open && query.data?.says.map((says) => <p key={says}>{says}</p>)}
    </section>
  );
}
