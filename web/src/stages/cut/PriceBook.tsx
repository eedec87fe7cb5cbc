import { useRef, useState } from "react";
import { api, exportLink, Refused } from "../../api/client";
import type { ProblemDocument } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Said } from "../../ui/Messages";
import { Button, Heading } from "../../ui/parts";

/** The price book out as CSV for the shop to fill in, and back again. */
export function PriceBook() {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<ProblemDocument | null>(null);
  const own = Object.keys(plan.prices ?? {}).length;
  const read = async (given: File | undefined) => {
    if (!given) return;
    try {
      const prices = await api.readPrices(await given.text());
      setProblem(null);
      edit((p) => ({ ...p, prices: { ...p.prices, ...prices } }));
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setProblem(error.problem);
    }
  };
  return (
    <section aria-label="Price book">
      <Heading note={`${own} prices of your own`}>Price book</Heading>
      <div className="flex flex-wrap gap-2">
        <a
          className="inline-flex min-h-[36px] items-center rounded-[4px] border border-line bg-panel px-3 pointer-coarse:min-h-[44px]"
          href={exportLink(job.id, "prices")}
          download
        >
          Take it as CSV
        </a>
        <Button onClick={() => file.current?.click()}>Read prices from CSV</Button>
        <input
          ref={file}
          type="file"
          accept=".csv,text/csv"
          className="hidden"
          aria-label="Price book file"
          onChange={(e) => {
            void read(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      <p className="text-[13px] text-muted">
        Mark the rows you filled in with "own"; the others stay starting figures.
      </p>
      {problem && <Said problem={problem} />}
    </section>
  );
}
