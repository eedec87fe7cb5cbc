import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useJob, useReadyJob } from "../../app/jobStore";
import { dearer, joints } from "../../bench/WayWords";
import { Button } from "../../ui/parts";
import { chooseHub } from "../planEdit";

/** What stands at a point, and what else may: elbow, two elbows, the pipe's own bend, tee, saddle. What is chosen stays. */
export function HubWays({ point }: { point: string }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const saving = useJob((s) => s.saving.kind);
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["hubs", job.id, job.revision, point],
    queryFn: () => api.hubs(job.id, point),
    enabled: saving === "saved",
    placeholderData: (before) => before,
  });
  const hubs = query.data ?? [];
  const now = hubs.find((h) => h.used);
  const own = plan.hubs.some((h) => h.point === point);
  if (!now || (hubs.length < 2 && !own)) return null;
  return (
    <section aria-label="What stands here" className="my-2">
      <p>
        Here stands <b>{now.says}</b>, {joints(now.joints)} in all.
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        {hubs.length > 1 && (
          <Button aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Fewer choices" : `${hubs.length - 1} other choices`}
          </Button>
        )}
        {own && <Button onClick={() => edit((p) => chooseHub(p, point, null))}>Leave it to Hydrarch</Button>}
      </div>
      {open && (
        <ul className="mt-1">
          {hubs
            .filter((h) => h !== now)
            .map((h) => (
              <li key={h.how + h.says} className="flex items-center gap-2 border-b border-line py-2">
                <span className="grow">
                  {h.says}
                  <span className="block text-[13px] text-muted">
                    {joints(h.joints)}, {dearer(h.price - now.price)}
                  </span>
                </span>
                <Button className="shrink-0" onClick={() => edit((p) => chooseHub(p, point, h))}>
                  Use this
                </Button>
              </li>
            ))}
        </ul>
      )}
    </section>
  );
}
