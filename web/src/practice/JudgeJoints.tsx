import { useState } from "react";
import { useFormat } from "../ui/context";
import { Box, Button } from "../ui/parts";
import type { PartProps } from "./ExercisePage";
import { JointPicture } from "./JointPicture";

/** Joints to judge, one at a time: what is wrong with it, if anything; then what is so, and what it costs. */
export function JudgeJoints({ practising }: PartProps) {
  const { attempt, view, change } = practising;
  const format = useFormat();
  const [at, setAt] = useState<number | null>(null);
  if (!attempt) return null;
  const questions = view?.questions ?? [];
  const answered = new Set(attempt.answers.map((a) => a.number));
  const first = questions.find((q) => !answered.has(q.number))?.number;
  const number = at ?? first ?? 0;
  const asked = questions.find((q) => q.number === number);
  if (!asked)
    return (
      <p className="text-muted">{view ? "This exercise has no joint to judge." : "The joints come from the server…"}</p>
    );
  const went = view?.assessment.answers.find((a) => a.number === number);
  const right = view?.assessment.answers.filter((a) => a.good).length ?? 0;
  const said = went && asked.choices.find((c) => c.id === went.says)?.title;
  return (
    <section aria-label="Judge the joint">
      <p className="text-muted">
        Joint {number + 1} of {questions.length} · {right} of {answered.size} right
      </p>
      <h2 className="text-lg font-bold first-letter:uppercase">
        {asked.method}, {asked.size}: what is wrong?
      </h2>
      <JointPicture outlines={asked.drawing} title="The joint to judge" />
      {!went && (
        <div className="mt-2 flex flex-wrap gap-2" role="group" aria-label="What is wrong">
          {[...asked.choices, { id: "sound", title: "Nothing" }].map((c) => (
            <Button
              key={c.id}
              disabled={answered.has(number)}
              className="min-h-[44px]"
              onClick={() => {
                setAt(number); // the answer is read before the next joint comes
                change((a) => ({ ...a, answers: [...a.answers, { number, says: c.id }] }));
              }}
            >
              {c.title}
            </Button>
          ))}
        </div>
      )}
      {went && (
        <>
          <Box tone={went.good ? "proved" : "dry"} role="status">
            <p className="font-bold">
              {went.good ? "Right" : "Not right"}: {went.title}
              {!went.good && `. You said: ${said ?? "Nothing"}`}
            </p>
            {went.shows && <p>{went.shows}</p>}
            {went.follows && (
              <p>
                <b>What follows:</b> {went.follows}
              </p>
            )}
            {went.figures.map((f) => (
              <p key={f.what}>
                {f.what}: <b>{format(f.value, f.quantity)}</b> <span className="text-muted">({f.source})</span>
              </p>
            ))}
            {went.saved && (
              <p>
                <b>What can be saved:</b> {went.saved}
              </p>
            )}
            {went.source && <p className="text-[0.8125rem] text-muted">Source: {went.source}.</p>}
          </Box>
          {first !== undefined && (
            <Button tone="plain" big className="mt-2" onClick={() => setAt(first)}>
              Next joint
            </Button>
          )}
          {went.truth !== "sound" && (
            <>
              <p className="mt-2 font-semibold">The same joint with nothing wrong</p>
              <JointPicture outlines={went.sound} title="The same joint with nothing wrong" />
            </>
          )}
        </>
      )}
    </section>
  );
}
