import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { clockTime } from "../../ui/format";
import { Button, Heading, Row, Table } from "../../ui/parts";

/** The job as it was: every revision can be gone back to, and nothing between is lost by it. */
export function Revisions() {
  const { job } = useReadyJob();
  const takeBack = useJob((s) => s.takeBack);
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["revisions", job.id, job.revision],
    queryFn: () => api.revisions(job.id),
    enabled: open && saved,
    placeholderData: (before) => before,
  });
  return (
    <section aria-label="Earlier revisions">
      <Heading note={`now no. ${job.revision}`}>Earlier revisions</Heading>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Go back to an earlier one"}
      </Button>
      {open && query.data && (
        <Table caption="Revisions" head={["no.", "saved", "drawn", ""]}>
          {query.data.map((r) => (
            <Row key={r.number}>
              <td>{r.number}</td>
              <td>{clockTime(r.saved)}</td>
              <td>
                {r.points} points, {r.runs} runs
              </td>
              <td className="text-right">
                {r.number === job.revision ? (
                  "this one"
                ) : (
                  <Button
                    disabled={!saved}
                    aria-label={`Go back to no. ${r.number}`}
                    onClick={() => void takeBack(r.number)}
                  >
                    Go back to it
                  </Button>
                )}
              </td>
            </Row>
          ))}
        </Table>
      )}
    </section>
  );
}
