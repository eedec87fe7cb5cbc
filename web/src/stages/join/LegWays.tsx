import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Way } from "../../api/types";
import { useFormat } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { SectionDrawing } from "../../bench/SectionDrawing";
import { dearer, joints, WayWords } from "../../bench/WayWords";
import { Wrong } from "../../bench/Wrong";
import { Button } from "../../ui/parts";
import { chooseWay } from "../planEdit";

const ids = (way: Way) => way.parts.flatMap((p) => (p.fitting ? [p.fitting] : []));

/** How one run is joined at a point, drawn to scale, with the other honest ways; a way chosen here stays chosen. */
export function LegWays({ point, run, used }: { point: string; run: string; used: readonly string[] }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const saving = useJob((s) => s.saving.kind);
  const format = useFormat();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["ways", job.id, job.revision, point, run],
    queryFn: () => api.ways(job.id, point, run),
    enabled: saving === "saved",
    placeholderData: (before) => before,
  });
  const ways = query.data?.ways ?? [];
  const now = ways.find((w) => ids(w).join() === used.join()) ?? ways[0];
  const own = plan.chosen.some((c) => c.point === point && c.run === run);
  if (!now || !used.length) return null;
  return (
    <section aria-label={`Ways at ${point}, ${run}`} className="mb-2">
      <SectionDrawing way={now} pixelsPerMm={null} step={-1} />
      <div className="flex flex-wrap gap-2">
        {ways.length > 1 && (
          <Button aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Fewer ways" : `${ways.length - 1} other ways`}
          </Button>
        )}
        {own && <Button onClick={() => edit((p) => chooseWay(p, point, run, null))}>Leave it to Hydrarch</Button>}
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
                  <Button className="shrink-0" onClick={() => edit((p) => chooseWay(p, point, run, ids(w)))}>
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
