import { useState } from "react";
import type { ProblemDocument } from "../../api/types";
import { useJob, useReadyJob } from "../../app/jobStore";
import { Said } from "../../app/Messages";
import { clockTime } from "../../ui/format";
import { Box, Button } from "../../ui/parts";
import { newEvent } from "../newEvent";

/** Joints that somebody made and the drawing no longer has: they are in the ground all the same. */
export function Lost() {
  const { lost } = useReadyJob().job.readiness;
  const say = useJob((s) => s.say);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  if (!lost.length) return null;
  const gone = async (joints: string[]) => setFault(await say([newEvent("undone", { joints })]));
  return (
    <Box tone="fault" role="note" aria-label="Made, and no longer on the drawing">
      <p className="font-semibold">
        {lost.length === 1 ? "One joint was" : `${lost.length} joints were`} made that the drawing no longer has.
      </p>
      <p>
        Take the change to the drawing back. Or cut {lost.length === 1 ? "it" : "them"} out, or mark{" "}
        {lost.length === 1 ? "it" : "them"} made where the drawing has {lost.length === 1 ? "it" : "them"} now; then say
        so here.
      </p>
      <ul className="text-[14px]">
        {lost.map((j) => (
          <li key={j.joint} className="flex items-center gap-2 py-1">
            <span className="block grow first-letter:uppercase">
              {j.place}, {j.by}, {clockTime(j.at)}
            </span>
            <Button className="shrink-0" onClick={() => void gone([j.joint])}>
              Seen to
            </Button>
          </li>
        ))}
      </ul>
      {fault && <Said problem={fault} />}
    </Box>
  );
}
