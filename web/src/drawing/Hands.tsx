import type { Joint, Plan } from "../api/types";
import { memberOf, useCrew } from "../job/Person";
import { useOthers } from "../job/whereabouts";
import { crewColour } from "../ui/Letter";
import { drawn, type Spot, toScreen, type View } from "./geometry";

/** Where the others are just now: each one's letter beside what they have chosen. */
export function Hands({ job, plan, joints, view }: { job: string; plan: Plan; joints: readonly Joint[]; view: View }) {
  const others = useOthers(job);
  const crew = useCrew();
  const spot = (at: string): Spot | null => {
    const joint = joints.find((j) => j.id === at);
    const point = plan.points.find((p) => p.id === (joint?.point ?? at));
    if (point) return point;
    const run = plan.runs.find((r) => r.id === (joint?.run ?? at));
    const [a, b] = [run?.a.point, run?.b.point].map((end) => plan.points.find((p) => p.id === end));
    return a && b ? { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } : null;
  };
  return (
    <g pointerEvents="none">
      {others.map((h) => {
        const at = spot(h.at);
        if (!at) return null;
        const c = toScreen(view, at);
        if (!drawn(view, c, c)) return null;
        const member = memberOf(crew.data?.members, h.name);
        return (
          <g key={h.page} transform={`translate(${c.x - 18} ${c.y - 18})`} data-hand={h.name}>
            <circle r={11} fill={crewColour(member)} stroke="var(--color-panel)" strokeWidth={2} />
            <text y={4.5} textAnchor="middle" fontSize={13} fontWeight={700} fill="#fff">
              {member.letter}
            </text>
          </g>
        );
      })}
    </g>
  );
}
