import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "wouter";
import { api, Refused } from "../api/client";
import { practiceApi, practiceRecordLink } from "../api/practice";
import type { ExerciseHead, PracticeGround, ProblemDocument } from "../api/types";
import { Person, usePerson } from "../job/Person";
import { Said } from "../ui/Messages";
import { Button, Fold, Heading, Row, Table, Title } from "../ui/parts";
import { useTitle } from "../ui/useTitle";

const ALONG = 12;

/** Fetch what comes up first, one after another, so that it opens with no signal too. */
async function takeExercisesAlong(queries: QueryClient, heads: readonly ExerciseHead[]): Promise<void> {
  await queries.prefetchQuery({
    queryKey: ["reference"],
    queryFn: api.reference,
    staleTime: Number.POSITIVE_INFINITY,
  });
  for (const e of heads.filter((h) => !h.fault).slice(0, ALONG))
    await queries.prefetchQuery({
      queryKey: ["exercise", e.id],
      queryFn: () => practiceApi.exercise(e.id),
      staleTime: 60_000,
    });
}

/** The exercises, what comes up first in front, and one's own record. */
export function Ground() {
  useTitle("Practice");
  const person = usePerson();
  const queries = useQueryClient();
  const ground = useQuery({
    queryKey: ["practice", person],
    queryFn: () => practiceApi.ground(person),
    refetchOnMount: "always",
  });
  useEffect(() => {
    if (ground.data) void takeExercisesAlong(queries, ground.data.exercises);
  }, [ground.data, queries]);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const done = async (asked: Promise<unknown>) => {
    try {
      await asked;
      setFault(null);
      await queries.invalidateQueries({ queryKey: ["practice"] });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  return (
    <main className="mx-auto max-w-3xl p-4 lg:p-6">
      <header className="flex items-start gap-3">
        <div className="grow">
          <Title note="Learn the joints where nothing is at stake. Nothing here is buried, handed over, or part of a job.">
            Practice
          </Title>
        </div>
        <Link href="/" className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline">
          Jobs
        </Link>
      </header>
      {fault && <Said problem={fault} />}
      {ground.error instanceof Refused && <Said problem={ground.error.problem} />}
      {ground.isPending && <p className="text-muted">Loading…</p>}
      {ground.data && (
        <>
          <ul className="grid gap-2">
            {ground.data.exercises.map((e) => (
              <Exercise key={e.id} head={e} onDrop={() => void done(practiceApi.dropExercise(e.id))} />
            ))}
          </ul>
          <Fold title="Your record" note={`${ground.data.attempts.length} attempts, ${ground.data.person}`}>
            <OwnRecord ground={ground.data} onDrop={(id) => void done(practiceApi.dropAttempt(id, person))} />
            <Person />
          </Fold>
          <Heading>Exercises of your own</Heading>
          <p className="mb-2">
            Open a job and choose Make an exercise in its Record stage, or take in an exercise file of another crew.
          </p>
          <input
            ref={input}
            type="file"
            accept=".json,application/json"
            aria-label="Exercise file"
            className="block w-full text-[0.875rem] file:mr-3 file:min-h-[40px] pointer-coarse:file:min-h-[44px] file:rounded-[4px] file:border file:border-line file:bg-panel file:px-3"
            onChange={async (e) => {
              const file = e.target.files?.[0];
              if (!file) return;
              await done(file.text().then(practiceApi.takeIn));
              if (input.current) input.current.value = "";
            }}
          />
        </>
      )}
    </main>
  );
}

const day = (seconds: number) =>
  new Date(seconds * 1000).toLocaleDateString(undefined, { day: "numeric", month: "short" });
const percent = (share: number) => `${Math.round(share * 100)} %`;

/** When an exercise comes up, in words. */
function due({ due, last, why }: ExerciseHead["next"]): string {
  if (due === null || due === undefined) return "not done yet";
  const when = due <= Date.now() / 1000 ? "due now" : `again on ${day(due)}`;
  return `${when}: last time ${percent(last ?? 0)} right, ${why}`;
}

function Exercise({ head, onDrop }: { head: ExerciseHead; onDrop: () => void }) {
  const [sure, setSure] = useState(false);
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border border-line bg-panel px-3 py-2.5">
      <div className="min-w-56 flex-1">
        <h2 className="text-lg font-bold">{head.title}</h2>
        <p>{head.fault || head.about}</p>
        <p className="text-[0.8125rem] text-muted">
          {head.minutes > 0 && `about ${head.minutes} min · `}
          {due(head.next)}
          {head.own && " · the crew's own"}
        </p>
      </div>
      {head.own && (
        <Button tone="quiet" onClick={() => (sure ? onDrop() : setSure(true))}>
          {sure ? "Delete for everyone" : "Delete"}
        </Button>
      )}
      {!head.fault && (
        <Link
          href={`/practice/${head.id}`}
          aria-label={`${head.under_way ? "Go on with" : "Open"} ${head.title}`}
          className="inline-flex min-h-[44px] items-center rounded-[4px] bg-water px-4 font-semibold text-on-water"
        >
          {head.under_way ? "Go on" : "Open"}
        </Link>
      )}
    </li>
  );
}

function OwnRecord({ ground, onDrop }: { ground: PracticeGround; onDrop: (id: string) => void }) {
  return (
    <>
      <p className="mb-1 text-[0.875rem] text-muted">
        Shown under your name alone. Nobody sees it unless you hand them the file.
      </p>
      {ground.attempts.length > 0 && (
        <>
          <Table caption="What you practised" head={["exercise", "begun", "right", ""]} numbers={[2]}>
            {ground.attempts.map((a) => (
              <Row key={a.id}>
                <td>{a.title}</td>
                <td>{day(a.begun)}</td>
                <td className="text-right">
                  {a.share === null || a.share === undefined ? "–" : percent(a.share)}
                  {a.ended ? "" : " so far"}
                </td>
                <td className="text-right">
                  <Button tone="quiet" aria-label={`Delete ${a.title} of ${day(a.begun)}`} onClick={() => onDrop(a.id)}>
                    Delete
                  </Button>
                </td>
              </Row>
            ))}
          </Table>
          <a
            href={practiceRecordLink(ground.person)}
            download
            className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline"
          >
            Export your record
          </a>
        </>
      )}
    </>
  );
}
