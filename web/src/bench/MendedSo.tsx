import { useState } from "react";
import { Link } from "wouter";
import type { ProblemDocument } from "../api/types";
import { bench } from "../job/benchPlace";
import { sayIn } from "../job/hooks";
import { newEvent } from "../job/newEvent";
import { Said } from "../ui/Messages";
import { Button } from "../ui/parts";
import { Words } from "../ui/Typed";

/** Written into the record of the job it was opened from: mended so, which takes its tests away until there is a new one. */
export function MendedSo({ of, note: usual }: { of: string; note: string }) {
  const job = bench.job();
  const [note, setNote] = useState(usual);
  const [done, setDone] = useState(false);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  if (!job) return null;
  const write = async () => {
    const problem = await sayIn(job, [newEvent("mended", { of, note, count: 1 })], "prove");
    setFault(problem);
    setDone(problem === null);
  };
  return (
    <div className="mt-2 print:hidden">
      {fault && <Said problem={fault} />}
      {done ? (
        <p role="status">
          It is written down. Test it before it is covered:{" "}
          <Link className="text-water underline" href={`/job/${job}/prove`}>
            to the tests
          </Link>
        </p>
      ) : (
        <>
          <Words label="What was done (kept)" value={note} live onValue={setNote} />
          <Button tone="main" className="mt-1" disabled={!note.trim()} onClick={() => void write()}>
            Mended so: write it into the record
          </Button>
        </>
      )}
    </div>
  );
}
