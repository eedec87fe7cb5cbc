import { useMemo } from "react";
import { isMadeAsDrawn } from "../../job/folded";
import { useProblems, useReadyJob, useStands } from "../../job/hooks";
import { Fold } from "../../ui/parts";

/** Every place with joints, in the order of the work: what is joined there, how far it is, and what is wrong; to be chosen without the drawing. */
export function Places({ onChoose }: { onChoose: (place: string) => void }) {
  const { derived } = useReadyJob();
  const readiness = useStands()?.readiness ?? null;
  const problems = useProblems();
  const places = useMemo(() => {
    const found = new Map<string, { name: string; joints: { id: string; method: string }[] }>();
    for (const j of derived.joints) {
      const at = j.point ?? j.run;
      if (!at) continue;
      const here = found.get(at) ?? { name: j.place, joints: [] };
      here.joints.push(j);
      found.set(at, here);
    }
    return [...found.entries()];
  }, [derived.joints]);
  const wrong = useMemo(() => new Set(problems.map((p) => p.where)), [problems]);
  const made = (ids: readonly { id: string }[]) => ids.filter((j) => isMadeAsDrawn(readiness?.joints[j.id])).length;
  return (
    <Fold title="Place by place" note={`${places.length}`} folded>
      <ul>
        {places.map(([id, { name, joints }]) => (
          <li key={id}>
            <button
              type="button"
              className="flex min-h-[36px] w-full flex-wrap items-baseline gap-x-2 border-b border-line py-1 text-left hover:bg-ground pointer-coarse:min-h-[44px]"
              data-joints-at={id}
              onClick={() => onChoose(id)}
            >
              <span className="font-semibold first-letter:uppercase">{name}</span>
              <span>{methods(joints)}</span>
              <span className="ml-auto text-[0.8125rem] text-muted">
                {readiness ? `${made(joints)} of ${joints.length} made` : `${joints.length}`}
                {wrong.has(id) && <span className="font-semibold text-fault">, a problem here</span>}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </Fold>
  );
}

/** The ways of joining of some joints, each with how often. */
function methods(joints: readonly { method: string }[]): string {
  const counts = new Map<string, number>();
  for (const j of joints) counts.set(j.method, (counts.get(j.method) ?? 0) + 1);
  return [...counts].map(([method, n]) => (n > 1 ? `${n} × ${method}` : method)).join(", ");
}
