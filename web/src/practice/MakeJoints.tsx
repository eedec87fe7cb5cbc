import { useState } from "react";
import type { ExerciseView } from "../api/types";
import { Box, Button, Check } from "../ui/parts";
import { useNow } from "../ui/useNow";
import { turned } from "./attemptStore";
import type { PartProps } from "./ExercisePage";

type Joint = ExerciseView["joints"][number];

/** Every joint made in the person's own order, each move timed; its steps are shown when they are asked for. */
export function MakeJoints({ exercise, practising }: PartProps) {
  const { attempt, view } = practising;
  if (!attempt) return null;
  return (
    <section aria-label="Make the joints">
      <p className="mb-2">
        Draw an index line wherever a joint sets an angle. Then make the joints in your own order; press each move as
        you do it.
      </p>
      <ul className="grid gap-2">
        {exercise.joints.map((joint) => {
          const went = view?.assessment.joints.find((j) => j.joint === joint.id);
          const made = attempt.made.find((m) => m.joint === joint.id);
          const over = made !== undefined && made.at.length > joint.phases.length;
          return (
            <li key={joint.id} className="border border-line bg-panel px-3 py-2">
              <JointInHand joint={joint} practising={practising} exercise={exercise} />
              {over && went && (
                <p role="status" className={went.good ? "font-semibold text-proved" : "font-semibold text-dry"}>
                  {went.good
                    ? `No slip seen in its order${joint.phases.length ? " or its clocks" : ""}.`
                    : `Not right: ${went.says.join("; ")}.`}
                </p>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function JointInHand({ joint, practising: { attempt, change } }: PartProps & { joint: Joint }) {
  const [shown, setShown] = useState(false);
  const made = attempt?.made.find((m) => m.joint === joint.id);
  const moves = joint.phases.length ? [...joint.phases.map((p) => p.move), "Let go"] : ["Made"];
  const at = made?.at.length ?? 0;
  const running = at > 0 && at < moves.length;
  const now = useNow(running);
  if (!attempt) return null;
  const name = `${joint.place}${joint.towards ? `, towards ${joint.towards}` : ""}`;
  const started = made?.at[at - 1];
  const press = () =>
    change((a) => {
      const before = a.made.find((m) => m.joint === joint.id);
      const next = { joint: joint.id, at: [...(before?.at ?? []), Date.now() / 1000] };
      return { ...a, made: [...a.made.filter((m) => m.joint !== joint.id), next] };
    });
  const ask = () => {
    setShown((s) => !s);
    if (!attempt.asked.includes(joint.id)) change((a) => ({ ...a, asked: [...a.asked, joint.id] }));
  };
  return (
    <>
      <p className="font-bold first-letter:uppercase">{name}</p>
      <p className="text-muted">
        {joint.method}, {joint.size}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <Check
          label="Index line drawn"
          aria-label={`Index line drawn, ${name}`}
          checked={attempt.indexed.includes(joint.id)}
          disabled={at > 0}
          onChange={() => change((a) => ({ ...a, indexed: turned(a.indexed, joint.id) }))}
        />
        {at < moves.length && (
          <Button tone={running ? "main" : "plain"} big aria-label={`${moves[at]}, ${name}`} onClick={press}>
            {moves[at]}
          </Button>
        )}
        {running && started !== undefined && (
          <span role="timer" className="text-xl font-bold tabular-nums">
            {Math.max(0, Math.round(now - started))} s
          </span>
        )}
        {at >= moves.length && <span className="font-semibold">Made</span>}
        <Button tone="quiet" aria-expanded={shown} aria-label={`Steps, ${name}`} onClick={ask}>
          {shown ? "Hide the steps" : "Show the steps"}
        </Button>
      </div>
      {shown && (
        <ol className="mt-1 list-decimal pl-6">
          {joint.steps.map((s) => (
            <li key={s.title}>
              <b>{s.title}.</b> {s.do}
            </li>
          ))}
        </ol>
      )}
      {running && joint.phases[at - 1] && (
        <Box tone="curing">
          {joint.phases[at - 1]?.why}. {joint.phases[at - 1]?.source}.
        </Box>
      )}
    </>
  );
}
