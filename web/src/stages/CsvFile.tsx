import { useRef, useState } from "react";
import { exportLink, Refused } from "../api/client";
import { type ForeignFile, foreignFile } from "../api/foreignFile";
import type { ProblemDocument } from "../api/types";
import { useReadyJob } from "../job/hooks";
import { Said } from "../ui/Messages";
import { Button } from "../ui/parts";

type CsvFileProps = {
  out?: { name: string; take: string };
  read: string;
  label: string;
  onFile: (file: ForeignFile) => Promise<void>;
};

/** A table out as CSV to be filled in, and back again, or only read; what cannot be read is told with its line, and nothing of it taken. */
export function CsvFile({ out, read, label, onFile }: CsvFileProps) {
  const { job } = useReadyJob();
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<ProblemDocument | null>(null);
  const given = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      await onFile(await foreignFile(chosen));
      setProblem(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setProblem(error.problem);
    }
  };
  return (
    <>
      <div className="flex flex-wrap gap-2">
        {out && (
          <a
            className="inline-flex min-h-[36px] items-center rounded-[4px] border border-edge bg-panel px-3 pointer-coarse:min-h-[44px]"
            href={exportLink(job.id, out.name)}
            download
          >
            {out.take}
          </a>
        )}
        <Button onClick={() => file.current?.click()}>{read}</Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.xlsx,text/csv"
          className="hidden"
          aria-label={label}
          onChange={(e) => {
            void given(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {problem && <Said problem={problem} />}
    </>
  );
}
