import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { Joint, JointState } from "../../api/types";
import { repairOf } from "../../job/benchPlace";
import { useReadyJob } from "../../job/hooks";
import { Mended } from "../../job/Mended";
import { ToBench } from "../../job/ToBench";
import { clockTime } from "../../ui/format";
import { Box, Button } from "../../ui/parts";
import { Withdraw } from "../Withdraw";

type LeakProps = { joint: Joint; state: JointState; onLeaks: () => void };

/** A leak at a joint: said by one press, mended at the bench with what is known of it, and closed into the record. */
export function Leak({ joint, state, onLeaks }: LeakProps) {
  const { job, plan, derived } = useReadyJob();
  const { leak, mend } = state;
  const runs = plan.runs.filter((r) => r.id === joint.run || r.a.point === joint.point || r.b.point === joint.point);
  const run = runs.find((r) => r.id === joint.run) ?? runs[0];
  const choice = run && derived.sizes.choices[run.id];
  const section = derived.sections.find((s) => s.joints.includes(joint.id));
  const query = useQuery({
    queryKey: ["wrong", job.id, job.revision, joint.id],
    queryFn: () => api.wrong(job.id, joint.id),
    enabled: leak != null,
  });
  return (
    <>
      {leak && (
        <Box tone="fault">
          <p>
            <b>It leaks:</b> seen by {leak.by || "somebody"}, {clockTime(leak.at)}. No test of it counts until it is
            mended or made again.
          </p>
          {query.data && (
            <p>
              <b>First:</b> {query.data.saved}
            </p>
          )}
          <div className="flex flex-wrap gap-x-4">
            {run && choice && (
              <ToBench
                className="inline-flex items-center text-water underline pointer-coarse:min-h-[44px]"
                href={repairOf({
                  series: choice.series,
                  size: choice.size,
                  situation: run.situation,
                  broke: "leak at a joint",
                  pressure: section?.working ?? null,
                  of: leak.event,
                  where: joint.place,
                })}
              >
                How to mend it
              </ToBench>
            )}
            <Mended of={leak.event} />
            <Withdraw event={leak.event} what="this leak" />
          </div>
        </Box>
      )}
      {mend && !state.proved && (
        <Box tone="curing">
          <b>Mended:</b> {mend.says}, {mend.by || "somebody"}, {clockTime(mend.at)}. Tests before that count no more.
        </Box>
      )}
      {!leak && (
        <Button big tone="dry" onClick={onLeaks}>
          It leaks
        </Button>
      )}
    </>
  );
}
