import { Link } from "wouter";
import type { ProblemDocument } from "../api/types";
import { Box, Button } from "../ui/parts";

type Said = Pick<ProblemDocument, "title" | "detail" | "mend"> & { places?: ProblemDocument["places"] };

export function Loading() {
  return (
    <div className="grid h-full place-items-center" aria-busy="true">
      <p className="text-muted">Loading …</p>
    </div>
  );
}

export function Failed({ problem }: { problem: Said }) {
  return (
    <main className="mx-auto max-w-xl p-6">
      <Said problem={problem} />
      <Link href="/" className="text-water underline">
        Go to the list of jobs
      </Link>
    </main>
  );
}

export function Notice({ problem, onClose }: { problem: Said; onClose: () => void }) {
  return (
    <div className="flex items-start gap-2 px-2 lg:px-5">
      <div className="grow">
        <Said problem={problem} />
      </div>
      <Button className="mt-2" onClick={onClose}>
        Close
      </Button>
    </div>
  );
}

/** What went wrong, where, and how to mend it. */
export function Said({ problem }: { problem: Said }) {
  return (
    <Box tone="fault" role="alert">
      <p className="font-bold">{problem.title}</p>
      <p>{problem.detail}</p>
      {problem.places?.length ? (
        <ul className="my-1 list-disc pl-5">
          {problem.places.map((p) => (
            <li key={p.where + p.says}>
              <b>{p.where}</b> {p.says}
            </li>
          ))}
        </ul>
      ) : null}
      {problem.mend && <p>{problem.mend}</p>}
    </Box>
  );
}
