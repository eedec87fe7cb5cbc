import { useQuery } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { api } from "../../api/client";
import type { Said as Event, Joint } from "../../api/types";
import { jointState } from "../../drawing/dress";
import { stateTone } from "../../drawing/joints";
import { Derived } from "../../job/Derived";
import { useBox, useReadyJob, useSay, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { newEvent } from "../../job/newEvent";
import { Photos } from "../../job/Photos";
import { ToBench } from "../../job/ToBench";
import { Cautions } from "../../ui/Cautions";
import { useFormat } from "../../ui/context";
import { clockTime, wait } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button } from "../../ui/parts";
import { TwoWords } from "../TwoWords";
import { HoldTimer } from "./HoldTimer";
import { Invert } from "./Invert";
import { JointPicture } from "./JointPicture";
import { Leak } from "./Leak";
import { LeaveDry } from "./LeaveDry";
import { WentWrong } from "./WentWrong";

type CardProps = { joint: Joint; why: string; angle: boolean; now: number; onMove: (step: number) => void };

/** One joint for a wet thumb: its picture, its steps, its clocks, and what was done. */
export function JointCard({ joint, why, angle, now, onMove }: CardProps) {
  const { job } = useReadyJob();
  const { readiness } = useStanding();
  const { say, fault } = useSay();
  const waiting = useBox().waiting.some((e) => e.job === job.id && e.event.joints.includes(joint.id));
  const format = useFormat();
  const select = useJob((s) => s.select);
  const [step, setStep] = useState(0);
  const [held, setHeld] = useState<number | null>(null);
  const [sure, setSure] = useState(false);
  const hold = useRef(step);
  hold.current = step;
  const run = useCallback((on: boolean) => setHeld(on ? hold.current : null), []);
  const query = useQuery({
    queryKey: ["procedure", job.id, job.revision, joint.id],
    queryFn: () => api.procedure(job.id, joint.id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const go = (to: number) => {
    setSure(false);
    setStep(to);
  };
  const state = jointState(readiness, joint.id);
  const record = async (kind: Event["kind"], onward: boolean, which: readonly string[] = [joint.id], note = "") => {
    select(joint.id); // the card stays with this joint, whatever comes next in the order
    setSure(false);
    const taken = await say([newEvent(kind, { joints: [...which], note })]);
    if (taken && onward) onMove(1);
  };
  const along = useJob((s) => (s.procedures?.revision === s.revision ? s.procedures.all : null));
  const procedure = query.data ?? along?.kinds[along.of[joint.id] ?? -1];
  const steps = procedure?.steps ?? [];
  const last = steps.length - 1;
  const current = steps[Math.min(step, last)];
  const timed = held === null ? step : held; // a hold that runs goes on while other steps are read
  const clock = steps[Math.min(timed, last)];
  const tone = stateTone[state.state];
  const made = !["planned", "dry"].includes(state.state);
  return (
    <section aria-label="The joint in hand">
      <h2 className="text-xl font-bold first-letter:uppercase">{joint.place}</h2>
      <p className="text-muted">
        <span className="inline-block first-letter:uppercase">{joint.method}</span>, {joint.size}
        {joint.towards && `, towards ${joint.towards}`} · {joint.a.what} into {joint.b.what}
      </p>
      <p className="mt-1 flex items-center gap-2">
        <span
          className="rounded-[3px] px-2 py-0.5 font-semibold"
          style={{ background: tone.fill, color: tone.ink, border: `1.500px solid ${tone.ring}` }}
        >
          {tone.words}
        </span>
        {state.by && (
          <span className="text-[0.8125rem] text-muted">
            {state.by}
            {state.at ? `, ${clockTime(state.at)}` : ""}
            {state.doubt ? `, or up to ${wait(state.doubt)} earlier: that device's clock was changed` : ""}
          </span>
        )}
      </p>
      <TwoWords state={state} />
      {state.purpose && (
        <Box tone="dry">
          <b>Left dry on purpose:</b> {state.purpose}
        </Box>
      )}
      {waiting && (
        <Box tone="water" role="status">
          Said, and kept on this device until the server has it.
        </Box>
      )}
      {!state.matches && (
        <Box tone="fault">
          Made, but to another drawing than this one: it no longer matches. Check it, or make it again.
        </Box>
      )}
      {state.cured_at && state.cured_at > now && state.set_at !== null && (
        <Box tone="curing">
          {(state.set_at ?? 0) > now ? (
            <p className="font-bold">Do not touch for {wait((state.set_at ?? 0) - now)}</p>
          ) : (
            <p className="font-bold">Handle with care</p>
          )}
          <p>
            Pressure after{" "}
            <Derived kind="cure" name={joint.id}>
              <span data-testid="cure-clock">{wait(state.cured_at - now)}</span>
            </Derived>
            , at {clockTime(state.cured_at)}
          </p>
        </Box>
      )}
      {!made && joint.role === "head" && (
        <Box tone="curing">
          <b>After flushing:</b> it goes on when its line is flushed, and tested where that is tested.
        </Box>
      )}
      {!made && current && (
        <div className="mt-3">
          <p className="text-[0.8125rem] text-muted">
            Step {Math.min(step, last) + 1} of {steps.length} · {why}
          </p>
          <h3 className="text-xl font-bold">{current.title}</h3>
          <p className="text-[1.125rem]">{current.do}</p>
          <p className="mt-1">
            <b>Right:</b> {current.looks}
          </p>
          <p>
            <b>Wrong:</b> {current.wrong}
          </p>
        </div>
      )}
      {!made && clock && clock.timer > 0 && (
        <HoldTimer
          key={timed}
          seconds={clock.timer}
          word={joint.method === "solvent weld" ? "the taper pushes back" : clock.title.toLowerCase()}
          onRun={run}
        />
      )}
      {angle && !made && (
        <Box tone="dry">
          <b>It sets an angle.</b> Fit it dry, draw one line across both sides, and push or turn it home to that line.
        </Box>
      )}
      <Invert joint={joint} />
      <JointPicture joint={joint} />
      {!made && step === 0 && procedure && <p className="text-[0.875rem]">At hand: {procedure.tools}.</p>}
      {query.isError && !procedure && <p className="text-fault">{query.error.message}</p>}
      {fault && <Said problem={fault} />}
      {!made && (
        <div
          data-working
          className="sticky bottom-0 z-10 -mx-4 mt-3 grid grid-cols-2 gap-2 border-t border-line bg-panel px-4 py-2"
        >
          <Button big disabled={step === 0} onClick={() => go(step - 1)}>
            Back
          </Button>
          <Button big disabled={step >= last} onClick={() => go(step + 1)}>
            Next step
          </Button>
          {sure && (
            <p role="alert" className="col-span-2">
              {held !== null
                ? "The hold still runs."
                : steps.length
                  ? `You are at step ${step + 1} of ${steps.length}.`
                  : "Its steps have not come yet."}{" "}
              Was all of it done?
            </p>
          )}
          <Button
            big
            tone="main"
            className="col-span-2"
            onClick={() =>
              sure || (steps.length > 0 && step >= last && held === null) ? void record("made", false) : setSure(true)
            }
          >
            {sure ? "Yes, all of it was done" : "Made, and it looks right"}
          </Button>
        </div>
      )}
      <div className="mt-3 grid gap-2">
        {state.state === "planned" && (
          <Button big onClick={() => void record("dry_fitted", true)}>
            Only dry-fitted
          </Button>
        )}
        {!made && !state.purpose && <LeaveDry onLeave={(why) => record("left_dry", true, [joint.id], why)} />}
        {state.state === "dry" && (
          <Button big tone="dry" onClick={() => void record("undone", false)}>
            Taken apart
          </Button>
        )}
        {(made || state.leak) && <Leak joint={joint} state={state} onLeaks={() => void record("leaked", false)} />}
        {made && (
          <WentWrong joint={joint.id} place={joint.place} onUndone={(which) => record("undone", false, which)} />
        )}
        <div className="grid grid-cols-2 gap-2">
          <Button big onClick={() => onMove(-1)}>
            Joint before
          </Button>
          <Button big onClick={() => onMove(1)}>
            Next joint
          </Button>
        </div>
      </div>
      <p className="print:hidden">
        <ToBench
          className="text-water underline"
          href={`/bench/join?start=${encodeURIComponent(joint.a.pipe ?? joint.a.end)}&stop=${encodeURIComponent(joint.b.pipe ?? joint.b.end)}`}
        >
          This joint at the bench
        </ToBench>
      </p>
      <Photos about={joint.id} />
      {procedure && <Cautions cautions={procedure.cautions} />}
      <p className="sr-only">{format(joint.depth, "takeoff")} deep</p>
    </section>
  );
}
