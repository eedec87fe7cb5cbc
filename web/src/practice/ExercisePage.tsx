import { useQuery } from "@tanstack/react-query";
import { Link, useLocation } from "wouter";
import { api, Refused } from "../api/client";
import { exerciseLink, exerciseSheetLink, practiceApi } from "../api/practice";
import type { ExerciseView } from "../api/types";
import { usePerson } from "../job/Person";
import { Cautions } from "../ui/Cautions";
import { FormatContext, ReferenceContext, useFormatOf } from "../ui/context";
import { Failed, Loading, Said } from "../ui/Messages";
import { Box, Button, Fold } from "../ui/parts";
import { useTitle } from "../ui/useTitle";
import { type Practising, usePractising } from "./attemptStore";
import { JudgeJoints } from "./JudgeJoints";
import { LayOut } from "./LayOut";
import { MakeJoints } from "./MakeJoints";
import { MeasureCuts } from "./MeasureCuts";
import { TypeResults } from "./TypeResults";

const parts = [
  ["kit", "Kit"],
  ["measure", "Measure"],
  ["make", "Make"],
  ["judge", "Judge"],
  ["results", "Results"],
] as const;
type PartName = (typeof parts)[number][0];

export type PartProps = { exercise: ExerciseView; practising: Practising };

/** One exercise: its drawing, and its parts one at a time. */
export function ExercisePage({ name, part }: { name: string; part: string }) {
  const person = usePerson();
  const reference = useQuery({ queryKey: ["reference"], queryFn: api.reference, staleTime: Number.POSITIVE_INFINITY });
  const asked = useQuery({ queryKey: ["exercise", name], queryFn: () => practiceApi.exercise(name) });
  const ground = useQuery({ queryKey: ["practice", person], queryFn: () => practiceApi.ground(person) });
  const format = useFormatOf(reference.data, asked.data?.units ?? "metric");
  useTitle(asked.data?.title ?? "", "Practice");
  const underWay = ground.data ? (ground.data.exercises.find((e) => e.id === name)?.under_way ?? "") : null;
  const practising = usePractising(name, person, ground.error ? "" : underWay);
  const failed = asked.error ?? reference.error;
  if (failed)
    return (
      <Failed
        problem={
          failed instanceof Refused ? failed.problem : { title: "No answer", detail: failed.message, mend: "Reload." }
        }
      />
    );
  if (!asked.data || !reference.data || !format) return <Loading />;
  const here: PartName = parts.find(([p]) => p === part)?.[0] ?? "kit";
  return (
    <ReferenceContext value={reference.data}>
      <FormatContext value={format}>
        <Exercise exercise={asked.data} practising={practising} here={here} />
      </FormatContext>
    </ReferenceContext>
  );
}

function Exercise({ exercise, practising, here }: PartProps & { here: PartName }) {
  const { attempt, fault, waiting, begin } = practising;
  return (
    <main className="mx-auto max-w-6xl p-3 lg:p-6">
      <header className="mb-2 flex flex-wrap items-center gap-x-4">
        <Link
          href="/practice"
          className="inline-flex min-h-[36px] items-center text-water underline pointer-coarse:min-h-[44px]"
        >
          Practice
        </Link>
        <h1 className="grow text-xl font-bold">{exercise.title}</h1>
        {waiting && <span className="text-[0.875rem] font-semibold text-dry">kept here, not sent yet</span>}
        <a
          href={exerciseSheetLink(exercise.id)}
          target="_blank"
          rel="noreferrer"
          className="inline-flex items-center text-water underline pointer-coarse:min-h-[44px]"
        >
          Print
        </a>
        <a
          href={exerciseLink(exercise.id)}
          download
          className="inline-flex items-center text-water underline pointer-coarse:min-h-[44px]"
        >
          Export
        </a>
      </header>
      {fault && (
        <>
          <Said problem={fault} />
          <Button onClick={begin}>Begin anew</Button>
        </>
      )}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-5 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
        <div>
          {attempt ? (
            <>
              <nav aria-label="Parts of the exercise" className="mb-3 flex gap-x-1 overflow-x-auto">
                {parts.map(([p, words]) => (
                  <Link
                    key={p}
                    href={`/practice/${exercise.id}/${p}`}
                    aria-current={p === here ? "page" : undefined}
                    className="flex min-h-[44px] items-center border-b-4 border-transparent px-2 font-semibold aria-[current=page]:border-water"
                  >
                    {words}
                  </Link>
                ))}
              </nav>
              <Part exercise={exercise} practising={practising} here={here} />
            </>
          ) : (
            <div>
              <p className="mb-3 text-lg">{exercise.about}</p>
              <p className="mb-3 text-muted">
                {exercise.joints.length} joints, {exercise.pieces.length} pieces, about {exercise.minutes} minutes.
              </p>
              <Button tone="main" big onClick={begin}>
                Begin
              </Button>
            </div>
          )}
        </div>
        <aside>
          <Fold title="Drawing">
            {exercise.drawings.map((svg, n) => (
              <img
                // biome-ignore lint/suspicious/noArrayIndexKey: drawings of an exercise do not move
                key={n}
                src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`}
                alt={n ? "The exercise, standing" : "The exercise, from above"}
                className="mb-2 w-full border border-line bg-white p-1"
              />
            ))}
          </Fold>
          <Cautions cautions={exercise.cautions} />
        </aside>
      </div>
    </main>
  );
}

function Part({ exercise, practising, here }: PartProps & { here: PartName }) {
  const [, go] = useLocation();
  const given = { exercise, practising };
  const at = parts.findIndex(([p]) => p === here);
  const next = parts[at + 1];
  return (
    <>
      {here === "kit" && <LayOut {...given} />}
      {here === "measure" && <MeasureCuts {...given} />}
      {here === "make" && <MakeJoints {...given} />}
      {here === "judge" && <JudgeJoints {...given} />}
      {here === "results" && <TypeResults {...given} />}
      {next && (
        <Button
          tone="main"
          big
          className="mt-4 w-full lg:w-auto"
          onClick={() => go(`/practice/${exercise.id}/${next[0]}`)}
        >
          Next: {next[1]}
        </Button>
      )}
      {practising.attempt?.ended !== null && <Box tone="water">This attempt has ended; nothing in it changes.</Box>}
    </>
  );
}
