import { useState } from "react";
import { useLocation } from "wouter";
import { api, exportLink, labelsLink, Refused } from "../../api/client";
import { practiceApi } from "../../api/practice";
import type { ProblemDocument } from "../../api/types";
import { JointMark, stateTone } from "../../drawing/joints";
import { useReadyJob, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Gallery, usePhotos } from "../../job/Photos";
import { useReference } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Box, Button, Heading, Title } from "../../ui/parts";
import { Words } from "../../ui/Typed";
import { Dangers } from "../Problems";
import { TwoWords } from "../TwoWords";
import { AsLaid } from "./AsLaid";
import { HandOn } from "./HandOn";
import { Lost } from "./Lost";
import { Reminders } from "./Reminders";
import { Revisions } from "./Revisions";

const link =
  "inline-flex min-h-[40px] items-center rounded-[4px] border border-edge bg-panel px-3 hover:bg-paper pointer-coarse:min-h-[44px]";

/** Keep: hand over, print, and take the job with you. What is dry or unproved stands first. */
export function KeepSheet() {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [, go] = useLocation();
  const { exports } = useReference();
  const offered = exports.filter((e) => !e.on_earth || plan.tie); // where on earth is said in Survey
  return (
    <>
      <Title note="What the next person, and the next decade, needs to know.">Record</Title>
      <Words
        label="Name of the job"
        value={plan.name}
        onValue={(name) => name.trim() && edit((p) => ({ ...p, name: name.trim() }))}
      />
      <Dangers />
      <HandOver />
      <HandOn />
      <AsLaid />
      <Reminders />
      <Heading>Take it with you</Heading>
      <div className="flex flex-wrap gap-2">
        {offered.map(({ name, title, saved }) => (
          <a
            key={name}
            className={link}
            href={exportLink(job.id, name)}
            {...(saved ? { download: true } : { target: "_blank", rel: "noreferrer" })}
          >
            {title}
          </a>
        ))}
      </div>
      {offered.length < exports.length && (
        <p className="mt-1 text-muted">For a map on a phone (KML), enter in Survey where on earth the job is.</p>
      )}
      <ToPractise />
      <Labels />
      <AllPhotos />
      <Revisions />
      <Heading>Delete</Heading>
      <Button
        tone="dry"
        onClick={() => {
          if (confirm(`Delete ${plan.name}? It can be brought back from the list of jobs.`))
            void api.shelve(job.id, "deleted").then(() => go("/"));
        }}
      >
        Delete this job
      </Button>
    </>
  );
}

/** The drawing as an exercise, to be practised before it costs something. */
function ToPractise() {
  const { job } = useReadyJob();
  const [, go] = useLocation();
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const make = async () => {
    try {
      const made = await practiceApi.make(job.id, "");
      go(`/practice/${made.id}`);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  return (
    <>
      <Heading>Practise it</Heading>
      <p className="mb-1">Its joints, with nothing at stake. The exercise is a copy; this job stays as it is.</p>
      <Button onClick={() => void make()}>Make an exercise</Button>
      {fault && <Said problem={fault} />}
    </>
  );
}

/** Labels with a code for each thing, on a sheet of which some may be used up. */
function Labels() {
  const { job, plan } = useReadyJob();
  const most = plan.units === "us" ? 30 : 21;
  const [used, setUsed] = useState(0);
  return (
    <section aria-label="Labels">
      <Heading note={plan.units === "us" ? "30 on letter, 2-5/8 × 1 in" : "21 on A4, 63.5 × 38.1 mm"}>
        Labels with codes
      </Heading>
      <p className="text-muted">One for each thing, by section: its code opens it here. Print at 100 %, not fitted.</p>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <label className="flex flex-col text-[0.8125rem] text-muted">
          Labels used up on the first sheet
          <select
            className="min-h-[40px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
            value={used}
            onChange={(e) => setUsed(Number(e.target.value))}
          >
            {Array.from({ length: most }, (_, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a count is its own name
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </select>
        </label>
        <a className={link} href={labelsLink(job.id, used)} target="_blank" rel="noreferrer">
          Labels, PDF
        </a>
      </div>
    </section>
  );
}

/** All photos of the job, each with what it is of. */
function AllPhotos() {
  const { plan, derived } = useReadyJob();
  const photos = usePhotos();
  if (!photos.length) return null;
  const names = new Map([
    ...derived.joints.map((j) => [j.id, j.place] as const),
    ...derived.sections.map((s) => [s.id, s.name] as const),
    ...plan.points.map((p) => [p.id, p.name] as const),
  ]);
  return (
    <section aria-label="All photos">
      <Heading note={`${photos.length}`}>Photos</Heading>
      <Gallery photos={photos} names={names} />
    </section>
  );
}

function HandOver() {
  const { job, derived } = useReadyJob();
  const [, go] = useLocation();
  const { readiness } = useStanding();
  const { first, joints, lost, hand_over: counted } = readiness;
  const known = new Map(derived.joints.map((j) => [j.id, j]));
  const select = useJob((s) => s.select);
  if (!first.length)
    return (
      <>
        <Lost />
        <Box tone={counted.done && !lost.length ? "proved" : "ink"} className="mt-3">
          {!counted.joints
            ? "There are no joints yet."
            : counted.done && !lost.length
              ? `${counted.whole}: no unfinished work.`
              : `Of ${counted.joints} joints: ${counted.says.join("; ")}.`}
        </Box>
      </>
    );
  return (
    <section aria-label="Hand-over">
      <Lost />
      <Heading>Unfinished work</Heading>
      <Box tone="dry">
        Of {counted.joints} joints: <b>{counted.says.join("; ")}</b>.
      </Box>
      <ol>
        {first.map((id) => {
          const joint = known.get(id);
          const state = joints[id];
          if (!joint || !state) return null;
          return (
            <li key={id}>
              <button
                type="button"
                className="flex min-h-[44px] w-full items-center gap-2 border-b border-line text-left"
                onClick={() => {
                  select(id);
                  go(`/job/${job.id}/make`);
                }}
              >
                <JointMark method={joint.method} state={state.state} wrong={!state.matches} />
                <span className="block grow py-1 first-letter:uppercase">
                  {joint.place}
                  {joint.towards && `, towards ${joint.towards}`}: {joint.a.what} into {joint.b.what}
                  {state.purpose && <b className="block">Left dry on purpose: {state.purpose}</b>}
                </span>
                <span
                  className="w-28 shrink-0 text-right text-[0.8125rem]"
                  style={{ color: stateTone[state.state].ring }}
                >
                  {state.matches ? stateTone[state.state].words : "no longer matches"}
                  {state.state === "buried" && !state.proved && ", not tested"}
                  {state.by && `, ${state.by}`}
                </span>
              </button>
              {state.others.length > 0 && <TwoWords state={state} />}
            </li>
          );
        })}
      </ol>
    </section>
  );
}
