import type { Changeover, RehearsedStep } from "../../api/types";
import { setOrder, shifted } from "../../job/changeover";
import { useReadyJob, useSay, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { nameOf } from "../../job/kinds";
import { newEvent } from "../../job/newEvent";
import { useFormat, useReference } from "../../ui/context";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button, Fold } from "../../ui/parts";
import { Tick } from "../../ui/Tick";

/** The changeover from the old service to the new, step by step: what each does to the house's water, and who did it. */
export function ChangeoverSteps() {
  const { derived } = useReadyJob();
  const found = derived.changeover;
  return found ? <Steps found={found} /> : null;
}

function Steps({ found }: { found: Changeover }) {
  const { readiness } = useStanding();
  const edit = useJob((s) => s.edit);
  const { say, fault } = useSay();
  const done = readiness.stepped ?? {};
  const next = found.steps.findIndex((s) => !done[s.name]);
  const count = found.steps.filter((s) => done[s.name]).length;
  const dry = found.dry_minutes;
  const tick = (step: RehearsedStep) =>
    void say([newEvent("stepped", { of: step.name, count: done[step.name] ? 0 : 1, note: step.says })]);
  return (
    <Fold
      title="Changeover"
      note={found.steps.length ? `${count} of ${found.steps.length} steps` : "no order works"}
      folded={false}
    >
      {fault && <Said problem={fault} />}
      {found.steps.length > 0 && (
        <Box tone={dry > 0 || !found.kept.length ? "dry" : "water"}>
          {dry > 0
            ? `The house has no water for at least ${Math.round(dry)} minutes. Cures come on top.`
            : found.kept.length
              ? "A supply is joined to each tap of the house at every step."
              : "No tap of the house is drawn: whether it keeps water is not known."}
        </Box>
      )}
      {found.bring.map((what) => (
        <p key={what} className="mt-1">
          Bring, and take home again: {what}.
        </p>
      ))}
      <ol className="mt-2">
        {found.steps.map((step, at) => (
          <li
            key={step.name}
            aria-current={at === next ? "step" : undefined}
            className="flex items-start gap-2 border-b border-line py-2 aria-[current]:bg-water-soft"
          >
            {step.why ? (
              <span className="grid size-[44px] shrink-0 place-content-center text-2xl font-bold text-fault">!</span>
            ) : (
              <Tick checked={Boolean(done[step.name])} label={step.says} onTick={() => tick(step)} />
            )}
            <span className="min-w-0 grow">
              <span className="font-semibold">
                {at + 1}. {step.says}
              </span>
              <span className="block text-[0.8125rem]">{step.note}</span>
              <StepWater step={step} />
              {step.stop && <b className="block text-fault">It stops here: {step.stop}.</b>}
              {done[step.name] && (
                <span className="block text-[0.8125rem] text-muted">
                  {done[step.name]?.by}, {clockTime(done[step.name]?.at ?? 0)}
                </span>
              )}
            </span>
            <span className="flex shrink-0 flex-col">
              {step.why !== "unfinished" && at > 0 && (
                <Button
                  tone="quiet"
                  aria-label={`Earlier: ${step.says}`}
                  onClick={() => edit((p) => setOrder(p, shifted(found.goes_by, at, -1)))}
                >
                  ↑
                </Button>
              )}
              {step.why !== "unfinished" && at < found.goes_by.length - 1 && (
                <Button
                  tone="quiet"
                  aria-label={`Later: ${step.says}`}
                  onClick={() => edit((p) => setOrder(p, shifted(found.goes_by, at, 1)))}
                >
                  ↓
                </Button>
              )}
            </span>
          </li>
        ))}
      </ol>
      {found.agreed && (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <span className="grow">
            This order is your own.
            {found.least_minutes != null &&
              ` The one worked out leaves the house dry for ${Math.round(found.least_minutes)} minutes.`}
          </span>
          <Button onClick={() => edit((p) => setOrder(p, []))}>Go by the order worked out</Button>
        </div>
      )}
    </Fold>
  );
}

/** What the house gets after a step. */
function StepWater({ step }: { step: RehearsedStep }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const called = (id: string) => {
    const point = plan.points.find((p) => p.id === id);
    return point ? nameOf(reference, point) : "";
  };
  if (step.why) return null;
  const weak = step.taps.filter((t) => t.gives != null && !step.dry.includes(t.point) && t.gives < t.wants);
  const unknown = step.taps.filter((t) => t.gives == null);
  return (
    <span className="block text-[0.8125rem] text-muted">
      {Math.round(step.minutes)} min
      {step.dry.length > 0 && <b className="text-dry">, no water at {step.dry.map(called).join(", ")}</b>}
      {weak.map((t) => (
        <span key={t.point}>
          , {called(t.point)} gives {format(t.gives ?? 0, "flow")} of {format(t.wants, "flow")}
        </span>
      ))}
      {unknown.length > 0 && `, flow at ${unknown.map((t) => called(t.point)).join(", ")} not known`}
    </span>
  );
}
