import { stages } from "../drawing/dress";
import { useReadyJob } from "../job/hooks";
import { memberOf, useCrew } from "../job/Person";
import { useOthers } from "../job/whereabouts";
import { Letter } from "../ui/Letter";

/** The others who have this job open, each with where they are in it. */
export function Others() {
  const { job, plan, derived } = useReadyJob();
  const others = useOthers(job.id);
  const crew = useCrew();
  if (!others.length) return null;
  const names = new Map([
    ...plan.points.map((p) => [p.id, p.name] as const),
    ...derived.joints.map((j) => [j.id, j.place] as const),
  ]);
  return (
    <ul className="flex items-center gap-1" aria-label="Also here">
      {others.map((h) => {
        const what = names.get(h.at);
        const where = `${h.name}, in ${stages.includes(h.stage) ? h.stage[0]?.toUpperCase() + h.stage.slice(1) : h.stage}${what ? `, at ${what}` : ""}`;
        return (
          <li key={h.page} className="inline-flex">
            <Letter member={memberOf(crew.data?.members, h.name)} title={where} />
            <span className="sr-only">{where}</span>
          </li>
        );
      })}
    </ul>
  );
}
