import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Way } from "../../api/types";
import { chooseWay } from "../../job/edits";
import { useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button } from "../../ui/parts";
import { SectionDrawing } from "../../ways/SectionDrawing";
import { dearer, joints, WayWords } from "../../ways/WayWords";
import { Wrong } from "../../ways/Wrong";

const ids = (way: Way) => way.parts.flatMap((p) => (p.fitting ? [p.fitting] : []));

/** How one end of a run is joined, drawn to scale, with the other ways to join; a way chosen here stays chosen. */
export function LegWays({ end, used }: { end: string; used: readonly string[] }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const saved = useSaved();
  const format = useFormat();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["ways", job.id, job.revision, end],
    queryFn: () => api.ways(job.id, end),
    enabled: saved,
    placeholderData: (before) => before,
  });
  const ways = query.data?.ways ?? [];
  const now = ways.find((w) => ids(w).join() === used.join()) ?? ways[0];
  const own = plan.ways.some((w) => w.end === end);
  if (!now || !used.length) return null;
  return (
    <section aria-label={`Ways at ${end}`} className="mb-2">
      <SectionDrawing way={now} pixelsPerMm={null} step={-1} />
      <div className="flex flex-wrap gap-2">
        {ways.length > 1 && (
          <Button aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Fewer ways" : `${ways.length - 1} other ways`}
          </Button>
        )}
        {own && <Button onClick={() => edit((p) => chooseWay(p, end, null))}>Automatic</Button>}
      </div>
      {open && (
        <ul className="mt-2">
          {ways
            .filter((w) => w !== now)
            .map((w) => {
              const more = w.joints.length - now.joints.length;
              return (
                <li key={ids(w).join()} className="flex items-start gap-2 border-b border-line py-2">
                  <span className="grow">
                    <WayWords
                      way={w}
                      count={`${more === 0 ? "as many joints" : `${joints(Math.abs(more))} ${more > 0 ? "more" : "fewer"}`}, ${dearer(w.price - now.price)}`}
                      format={format}
                    />
                  </span>
                  <Button className="shrink-0" onClick={() => edit((p) => chooseWay(p, end, ids(w)))}>
                    Use this way
                  </Button>
                </li>
              );
            })}
        </ul>
      )}
      {open && query.data?.wrong.slice(0, 2).map((w) => <Wrong key={w.a.name + w.b.name} wrong={w} format={format} />)}
    </section>
  );
}
