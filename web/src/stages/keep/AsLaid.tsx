import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { AsLaid as Laid } from "../../api/types";
import { useReadyJob, useSaved, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { clockTime, lies } from "../../ui/format";
import { Box, Button, Heading } from "../../ui/parts";

const FEW = 12;

/** Where what is out of sight lies: each joint from two marks, with how deep it is, whose it is and what proves it. */
export function AsLaid() {
  const { job } = useReadyJob();
  const { readiness } = useStanding();
  const saved = useSaved();
  const [all, setAll] = useState(false);
  const { data } = useQuery({
    queryKey: ["as-laid", job.id, job.revision, readiness.now],
    queryFn: () => api.asLaid(job.id),
    enabled: saved,
  });
  if (!data) return null;
  const measured = data.joints.some((j) => j.tapes.length);
  return (
    <section aria-label="As laid">
      <Heading note={data.joints.length ? `${data.joints.length}` : undefined}>As laid</Heading>
      <Box tone={data.joints.length && !measured ? "dry" : "ink"}>{data.says}</Box>
      <ol>
        {data.joints.slice(0, all ? data.joints.length : FEW).map((j) => (
          <Row key={j.joint} joint={j} />
        ))}
      </ol>
      {data.joints.length > FEW && !all && (
        <Button className="mt-2" onClick={() => setAll(true)}>
          Show all {data.joints.length}
        </Button>
      )}
    </section>
  );
}

function Row({ joint }: { joint: Laid }) {
  const format = useFormat();
  const select = useJob((s) => s.select);
  const tapes = joint.tapes.map((t) => `${format(t.distance, "length")} from ${t.name}`).join(", ");
  return (
    <li>
      <button
        type="button"
        className="block min-h-[44px] w-full border-b border-line py-1 text-left"
        onClick={() => select(joint.joint)}
      >
        <span className="block first-letter:uppercase">
          {joint.place}: {joint.method} {joint.size}
        </span>
        {tapes && (
          <b className="block">
            {tapes}
            {!joint.sharp && " (they cross flat)"}
          </b>
        )}
        <span className="block text-[0.8125rem] text-muted">
          {lies(format, joint.depth)}, {joint.by}, {clockTime(joint.at)}
          {joint.proved_at ? `, tested ${clockTime(joint.proved_at)}` : ", not tested"}
        </span>
        {joint.since && <b className="block text-[0.8125rem] text-dry">{joint.since}</b>}
      </button>
    </li>
  );
}
