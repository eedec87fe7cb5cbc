import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { JoinIn } from "../api/types";
import { Loading } from "../ui/Messages";
import { holdWords } from "./holdWords";

type HowProps = { asked: Partial<JoinIn>; way: number; joint: number };

/** How to make the joint in hand: the steps of Make with no job, to be done one after the other. */
export function HowToMake({ asked, way, joint }: HowProps) {
  const steps = useQuery({
    queryKey: ["bench steps", asked, way, joint],
    queryFn: () => api.benchSteps({ asked: asked as JoinIn, way, joint }),
  });
  if (steps.isPending) return <Loading />;
  if (!steps.data) return <p className="text-fault">{steps.error?.message}</p>;
  const { cure, tools, wait } = steps.data;
  return (
    <div>
      <p className="text-[0.875rem]">
        <b>Tools:</b> {tools}.
      </p>
      <ol className="mt-1">
        {steps.data.steps.map((s, n) => (
          <li key={s.title} className="flex gap-3 border-b border-line py-2">
            <span aria-hidden className="w-6 shrink-0 text-right text-lg font-bold text-muted">
              {n + 1}
            </span>
            <span className="min-w-0">
              <b className="text-lg">{s.title}</b>
              {s.timer > 0 && <span className="ml-2 font-semibold text-water">{holdWords(s.timer)}</span>}
              <span className="block">{s.do}</span>
              {s.looks && <span className="block text-[0.875rem] text-muted">Right: {s.looks}</span>}
              {s.wrong && <span className="block text-[0.875rem] text-muted">If not: {s.wrong}</span>}
            </span>
          </li>
        ))}
      </ol>
      {cure && (
        <p className="mt-2 text-[0.875rem]">
          <b>Waits</b> ({cure.says}): {holdWords(cure.set)} before it is let go of, {holdWords(cure.fill)} before water,{" "}
          {holdWords(cure.cure)} before its test. Source: {cure.source}.
        </p>
      )}
      {!cure && wait && <p className="mt-2 text-[0.875rem]">{wait}</p>}
    </div>
  );
}
