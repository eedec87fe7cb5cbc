import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "wouter";
import { attemptPhotoLink, practiceApi } from "../api/practice";
import { usePerson } from "../job/Person";
import { PhotoRow, TakePhoto, WaitingPhotos } from "../job/PhotoRow";
import { takePhoto, usePhotoBox } from "../job/photoBox";
import { useFormat } from "../ui/context";
import { clockTime } from "../ui/format";
import { Box, Button, Row, Table } from "../ui/parts";
import { Typed } from "../ui/Typed";
import type { PartProps } from "./ExercisePage";

const words: Record<string, string> = {
  lengths: "Cut lengths",
  joints: "Joints made",
  judged: "Joints judged",
  measured: "Measured",
};

type ResultPhotosProps = { attempt: string; about: string; what: string; ended: boolean };

/** Photos of the real piece beside what was measured on it: that person's own. */
function ResultPhotos({ attempt, about, what, ended }: ResultPhotosProps) {
  const person = usePerson();
  const queries = useQueryClient();
  const box = usePhotoBox((s) => s.waiting);
  const waiting = box.filter((p) => p.attempt === attempt && p.about === about);
  const asked = useQuery({
    queryKey: ["attempt-photos", attempt, person, waiting.length],
    queryFn: () => practiceApi.photos(attempt, person),
    placeholderData: keepPreviousData,
  });
  const mine = (asked.data ?? []).filter((p) => p.about === about);
  const remove = async (id: string) => {
    await practiceApi.dropPhoto(attempt, id, person);
    await queries.invalidateQueries({ queryKey: ["attempt-photos", attempt] });
  };
  return (
    <div className="my-2 grid gap-2">
      <PhotoRow
        photos={mine.map((p) => ({
          ...p,
          link: attemptPhotoLink(attempt, p.id, person),
          words: `${what}, ${clockTime(p.at)}`,
        }))}
        onRemove={remove}
      />
      <WaitingPhotos photos={waiting} />
      {!ended && (
        <p>
          <TakePhoto of={what} onTake={(file) => void takePhoto({ attempt }, about, file, "", false)} />
        </p>
      )}
    </div>
  );
}

/** What is accepted of a figure, in words. */
const accepted = (ideal: number, off: number, told: (value: number) => string): string =>
  ideal ? (off ? `${told(ideal)} ± ${told(off)}` : told(ideal)) : off ? `up to ${told(off)}` : "none";

/** What was measured on the real piece against its tolerances; and how the whole went. */
export function TypeResults({ exercise, practising }: PartProps) {
  const { attempt, view, change, begin } = practising;
  const format = useFormat();
  if (!attempt) return null;
  const share = view?.assessment.share;
  return (
    <section aria-label="Results">
      {exercise.tolerances.length > 0 && <p className="mb-2">Measure the piece you made. Type what you find.</p>}
      <ul className="grid gap-2">
        {exercise.tolerances.map((t) => {
          const typed = attempt.results.find((r) => r.what === t.id);
          const went = view?.assessment.results.find((r) => r.what === t.id && r.value === typed?.value);
          return (
            <li key={t.id} className="border border-line bg-panel px-3 py-2">
              <Typed
                label={t.what}
                quantity={t.quantity}
                value={typed?.value ?? null}
                onValue={(value) =>
                  change((a) => ({
                    ...a,
                    results: [...a.results.filter((r) => r.what !== t.id), { what: t.id, value }],
                  }))
                }
              />
              <p className="text-[0.8125rem] text-muted">
                {t.how && `${t.how} `}Accepted: {accepted(t.ideal ?? 0, t.off, (v) => format(v, t.quantity))};{" "}
                {t.source}.
              </p>
              {went && (
                <p role="status" className={went.good ? "font-semibold text-proved" : "font-semibold text-dry"}>
                  {went.good ? "Within what is accepted." : "Beyond what is accepted."}
                </p>
              )}
              <ResultPhotos attempt={attempt.id} about={t.id} what={t.what} ended={attempt.ended !== null} />
            </li>
          );
        })}
      </ul>
      {view && (
        <Table caption="How it went" head={["part", "right", "tried"]} numbers={[1, 2]}>
          {Object.entries(view.assessment.parts).map(([part, [right, tried]]) => (
            <Row key={part}>
              <td>{words[part] ?? part}</td>
              <td className="text-right">{right}</td>
              <td className="text-right">{tried}</td>
            </Row>
          ))}
        </Table>
      )}
      {attempt.ended === null ? (
        <>
          <Button
            tone="main"
            big
            className="mt-4 w-full lg:w-auto"
            disabled={share === null || share === undefined}
            onClick={() => change((a) => ({ ...a, ended: Date.now() / 1000 }))}
          >
            End the exercise
          </Button>
          {(share === null || share === undefined) && (
            <p className="text-muted">It can be ended once something was measured, made or judged.</p>
          )}
        </>
      ) : (
        <Box tone="water" role="status">
          <p className="font-bold">
            {share !== null && share !== undefined && `${Math.round(share * 100)} % of what you tried was right.`}
          </p>
          <p>It is in your record. What went wrong comes up again first.</p>
          <p className="mt-2 flex flex-wrap gap-3">
            <Button tone="main" onClick={begin}>
              Begin again
            </Button>
            <Link href="/practice" className="inline-flex min-h-[44px] items-center text-water underline">
              All exercises
            </Link>
          </p>
        </Box>
      )}
    </section>
  );
}
