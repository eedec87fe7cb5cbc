import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { chooseNode } from "../../job/edits";
import { useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button } from "../../ui/parts";
import { dearer, joints } from "../../ways/WayWords";

/** What stands at a point, and what else may: elbow, two elbows, the pipe's own bend, tee, saddle. What is chosen stays. */
export function NodeWays({ point }: { point: string }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const format = useFormat();
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["nodes", job.id, job.revision, point],
    queryFn: () => api.nodes(job.id, point),
    enabled: saved,
    placeholderData: (before) => before,
  });
  const nodes = query.data ?? [];
  const now = nodes.find((h) => h.used);
  const own = plan.nodes.some((h) => h.point === point);
  if (!now || (nodes.length < 2 && !own)) return null;
  return (
    <section aria-label="What stands here" className="my-2">
      <p>
        Here stands <b>{now.says}</b>, {joints(now.joints)} in all
        {(now.loses ?? 0) < 0.001 ? "" : `; it loses ${format(now.loses, "cut")} of head where most runs`}.
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        {nodes.length > 1 && (
          <Button aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Fewer choices" : `${nodes.length - 1} other choices`}
          </Button>
        )}
        {own && <Button onClick={() => edit((p) => chooseNode(p, point, null))}>Automatic</Button>}
      </div>
      {open && (
        <ul className="mt-1">
          {nodes
            .filter((h) => h !== now)
            .map((h) => (
              <li key={h.how + h.says} className="flex items-center gap-2 border-b border-line py-2">
                <span className="grow">
                  {h.says}
                  <span className="block text-[0.8125rem] text-muted">
                    {joints(h.joints)}, {dearer(h.price - now.price)}
                    {h.loses == null ? "" : `, loses ${format(h.loses, "cut")}`}
                  </span>
                </span>
                <Button className="shrink-0" onClick={() => edit((p) => chooseNode(p, point, h))}>
                  Use this
                </Button>
              </li>
            ))}
        </ul>
      )}
    </section>
  );
}
