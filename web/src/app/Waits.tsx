import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api } from "../api/client";
import { kept } from "../api/kept";
import type { ProblemDocument } from "../api/types";
import { type Draft, dropDraft, useDrafts } from "../job/drafts";
import { useBox } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { asNewJobs, draftAsNewJob, useLeft } from "../job/leftBehind";
import { merge } from "../job/merge";
import { usePhotoBox } from "../job/photoBox";
import { problemOf } from "../job/saving";
import { DialogFrame } from "../ui/DialogFrame";
import { clockTime } from "../ui/format";
import { Said } from "../ui/Messages";
import { Button } from "../ui/parts";
import { words } from "./Refused";

/** All that waits on this device for the server: what was said, drawn and taken, for which job, and by whom. */
function useWaiting() {
  const { waiting, unkept: said } = useBox();
  const photos = usePhotoBox((s) => s.waiting);
  const taken = usePhotoBox((s) => s.unkept);
  const drawnHere = useJob((s) => s.unkept);
  const left = useLeft((s) => s.jobs);
  const id = useJob((s) => s.id);
  const drawn = useJob((s) => s.saving !== "saved" && s.saving !== "saving");
  const drawings = [...(drawn && id ? [[id, "waits"] as const] : []), ...left];
  const refused = useDrafts((s) => s.drafts.length > 0);
  const stuck = refused || drawings.some(([, why]) => why !== "waits") || photos.some((p) => p.refused);
  const drafts = useDrafts((s) => s.drafts);
  const count = waiting.length + photos.length + drawings.length + drafts.length;
  return { waiting, photos, drawings, drafts, count, stuck, unkept: said || taken || drawnHere };
}

/** The button that shows what waits; nothing where nothing does. */
export function Waits() {
  const { waiting, photos, drawings, drafts, count, stuck, unkept } = useWaiting();
  const [open, setOpen] = useState(false);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const [, go] = useLocation();
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs, enabled: open });
  if (!count) return null;
  const keepAsNew = async (job: string) => {
    try {
      const [first] = await asNewJobs(job);
      setOpen(false);
      if (first) go(`/job/${first}/survey`);
    } catch (error) {
      setFault(problemOf(error));
      if (!problemOf(error)) throw error;
    }
  };
  const draftAsNew = async (draft: Draft) => {
    try {
      const made = await draftAsNewJob(draft);
      setOpen(false);
      go(`/job/${made}/survey`);
    } catch (error) {
      setFault(problemOf(error));
      if (!problemOf(error)) throw error;
    }
  };
  const names = new Map(jobs.data?.map((j) => [j.id, j.name]));
  const called = (job: string) => names.get(job) ?? (job || "Practice"); // a photo of an exercise is of no job
  const ids = [
    ...new Set([
      ...drafts.map((d) => d.job),
      ...drawings.map(([job]) => job),
      ...waiting.map((e) => e.job),
      ...photos.map((p) => p.job),
    ]),
  ];
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button tone="quiet">What waits</Button>
      </Dialog.Trigger>
      <DialogFrame title="Not yet sent" width="max-w-[36rem]" close="Close">
        <p className="text-muted">
          {stuck
            ? "What clashes or is refused waits for a person; all else is sent by itself as soon as the server answers."
            : "It is sent by itself as soon as the server answers."}{" "}
          {unkept
            ? "This device is full: some of it is in this page alone, do not close it."
            : "It is kept here until then."}
        </p>
        {ids.map((job) => (
          <section key={job} aria-label={called(job)} className="border-b border-line py-2">
            <h3 className="font-semibold">{called(job)}</h3>
            <ul>
              {drawings
                .filter(([of]) => of === job)
                .map(([of, why]) => (
                  <li key={of}>
                    The changed drawing {why}.{" "}
                    <Link
                      href={`/job/${job}/survey`}
                      onClick={() => setOpen(false)}
                      className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline"
                    >
                      Open it
                    </Link>
                    {why === "is of a job that was deleted" && (
                      <Button onClick={() => void keepAsNew(of)}>Keep it as a new job</Button>
                    )}
                  </li>
                ))}
              {drafts
                .filter((d) => d.job === job)
                .map((d) => (
                  <li key={d.key} className="border-l-2 border-dry pl-2">
                    The drawing of {clockTime(d.at)} was not accepted: {d.problem.detail} {d.problem.mend}
                    <span className="mt-1 flex flex-wrap gap-2">
                      <PutBack draft={d} onDone={() => setOpen(false)} />
                      <Button onClick={() => void draftAsNew(d)}>Keep it as a new job</Button>
                      <Button tone="quiet" onClick={() => dropDraft(kept, d.key)}>
                        Discard this drawing
                      </Button>
                    </span>
                  </li>
                ))}
              {waiting
                .filter((e) => e.job === job)
                .map(({ event }) => (
                  <li key={event.id}>
                    {words[event.kind]}
                    {event.joints.length > 0 && `, ${event.joints.length} joint${event.joints.length === 1 ? "" : "s"}`}
                    {event.by && `, ${event.by}`}, {clockTime(event.at)}
                  </li>
                ))}
              {photos
                .filter((p) => p.job === job)
                .map((p) => (
                  <li key={p.id}>
                    Photo{p.note && ` “${p.note}”`}
                    {p.by && `, ${p.by}`}, {clockTime(p.at)}
                    {p.refused && `: ${p.refused}`}
                  </li>
                ))}
            </ul>
          </section>
        ))}
        {fault && <Said problem={fault} />}
      </DialogFrame>
    </Dialog.Root>
  );
}

/** Bring a refused drawing together with the saved one, where its job is open; the server is asked again. */
function PutBack({ draft, onDone }: { draft: Draft; onDone: () => void }) {
  const open = useJob((s) => (s.view.kind === "ready" ? s.id : ""));
  const edit = useJob((s) => s.edit);
  if (open !== draft.job)
    return (
      <Link
        href={`/job/${draft.job}/survey`}
        onClick={onDone}
        className="inline-flex items-center text-water underline pointer-coarse:min-h-[44px]"
      >
        Open the job
      </Link>
    );
  return (
    <Button
      onClick={() => {
        edit((now) => merge(draft.base, draft.plan, now, "mine").plan);
        dropDraft(kept, draft.key);
        onDone();
      }}
    >
      Restore it
    </Button>
  );
}

/** The same on pages that have no job's head over them. */
export function WaitingBar() {
  const [at] = useLocation();
  const { count } = useWaiting();
  if (!count || at.startsWith("/job/")) return null;
  return (
    <p role="status" className="flex flex-wrap items-center gap-2 bg-dry-soft px-3 py-1 text-dry lg:px-5">
      <b>{count === 1 ? "One thing waits" : `${count} things wait`} on this device for the server.</b>
      <Waits />
    </p>
  );
}
