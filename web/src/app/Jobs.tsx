import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, Refused } from "../api/client";
import type { AtAGlance, JobSummary, ProblemDocument } from "../api/types";
import { flat, type Projection } from "../drawing/projection";
import { clockTime } from "../ui/format";
import { Button, Fold, Pick } from "../ui/parts";

const MANY = 6;
/** Jobs worked out for the list at once; a search brings the others up. */
const SHOWN = 24;
/** Lines of what waits on a job: their room is kept before they are known, so that nothing below moves from under a thumb. */
const LINES = 4;
const LINES_HIGH = "h-20";

type Shelf = JobSummary["shelf"];
type Hands = { shelve: (job: JobSummary, shelf: Shelf) => void; copy: (job: JobSummary) => void };
type JobsProps = { jobs: readonly JobSummary[]; onFault: (fault: ProblemDocument | null) => void };

/** Every job as its own small drawing with what waits; each opens where the work waits. Those put away lie below. */
export function Jobs({ jobs, onFault }: JobsProps) {
  const [words, setWords] = useState("");
  const [gone, setGone] = useState<JobSummary | null>(null);
  const queries = useQueryClient();
  const [, go] = useLocation();
  const wanted = words.trim().toLowerCase();
  const listed = jobs.filter((j) => j.shelf === "list");
  const found = listed.filter((j) => j.name.toLowerCase().includes(wanted));
  const asked = async (what: Promise<unknown>) => {
    try {
      await what;
      onFault(null);
      return true;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      onFault(error.problem);
      return false;
    } finally {
      await queries.invalidateQueries({ queryKey: ["jobs"] });
    }
  };
  const hands: Hands = {
    shelve: async (job, shelf) => {
      if (await asked(api.shelve(job.id, shelf))) setGone(shelf === "list" ? null : { ...job, shelf });
    },
    copy: (job) => void asked(api.copyJob(job.id).then((made) => go(`/job/${made.id}/survey`))),
  };
  return (
    <>
      {gone && (
        <p
          role="status"
          className="mb-2 flex items-center justify-between gap-2 border-l-4 border-water bg-water-soft px-3 py-1"
        >
          <span>
            {gone.name} {gone.shelf === "archive" ? "is in the archive" : "was deleted"}.
          </span>
          <Button onClick={() => hands.shelve(gone, "list")}>Undo</Button>
        </p>
      )}
      {listed.length > MANY && (
        <input
          type="search"
          aria-label="Find a job"
          placeholder="Find a job"
          value={words}
          className="mb-2 min-h-[40px] w-full rounded-[4px] border border-edge bg-panel px-2 pointer-coarse:min-h-[44px]"
          onChange={(e) => setWords(e.target.value)}
        />
      )}
      {!found.length && listed.length > 0 && <p className="text-muted">No job has {words.trim()} in its name.</p>}
      <ul className="grid grid-cols-[minmax(0,1fr)] gap-3 [overflow-anchor:none] sm:grid-cols-2 lg:grid-cols-3">
        {found.slice(0, SHOWN).map((j) => (
          <Job key={j.id} job={j} hands={hands} />
        ))}
      </ul>
      {found.length > SHOWN && (
        <p className="mt-2 text-muted">{found.length - SHOWN} more, saved earlier: find them by name.</p>
      )}
      <PutAway title="Archive" jobs={jobs.filter((j) => j.shelf === "archive")} hands={hands} />
      <PutAway
        title="Deleted"
        jobs={jobs.filter((j) => j.shelf === "deleted")}
        hands={hands}
        onForget={(job, name) => void asked(api.forgetJob(job.id, name)).then(() => setGone(null))}
      />
      <ForGood hands={{ asked }} />
      <Copies hands={{ asked }} />
    </>
  );
}

/** Jobs deleted for good, for the month that they are kept. */
function ForGood({ hands }: { hands: { asked: (what: Promise<unknown>) => Promise<boolean> } }) {
  const kept = useQuery({ queryKey: ["jobs", "deleted"], queryFn: api.deleted });
  if (!kept.data?.length) return null;
  return (
    <Fold title="Deleted for good" note={`${kept.data.length}, each kept for 30 days`} folded>
      <ul>
        {kept.data.map((j) => (
          <li key={j.id} className="flex items-center gap-2 border-b border-line py-1">
            <span className="min-w-0 grow">
              {j.name}
              <span className="block text-[0.8125rem] text-muted">
                {clockTime(j.at)}
                {j.by && `, ${j.by}`}
              </span>
            </span>
            <Button aria-label={`Restore ${j.name}`} onClick={() => void hands.asked(api.bringBack(j.id))}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </Fold>
  );
}

/** The copies of the last days: a job is brought back from one as a job of its own, and nothing is lost of what is there now. */
function Copies({ hands }: { hands: { asked: (what: Promise<unknown>) => Promise<boolean> } }) {
  const [day, setDay] = useState("");
  const kept = useQuery({ queryKey: ["copies"], queryFn: api.copies });
  const shown = kept.data?.find((c) => c.day === day) ?? kept.data?.[0];
  if (!kept.data || !shown) return null;
  return (
    <Fold title="Daily copies" note={kept.data.length === 1 ? "1 day" : `${kept.data.length} days`} folded>
      <Pick
        label="Copy of"
        className="w-48"
        options={kept.data.map((c) => [c.day, c.day] as const)}
        value={shown.day}
        onPick={setDay}
      />
      <p className="my-1 text-[0.8125rem] text-muted">
        A job is restored beside the one that is there now, under its name with the day.
      </p>
      <ul>
        {shown.jobs.map((j) => (
          <li key={j.id} className="flex items-center gap-2 border-b border-line py-1">
            <span className="min-w-0 grow">
              {j.name}
              <span className="block text-[0.8125rem] text-muted">
                revision {j.revision}, {j.records === 1 ? "1 record" : `${j.records} records`}
              </span>
            </span>
            <Button
              aria-label={`Restore ${j.name} of ${shown.day}`}
              onClick={() => void hands.asked(api.bringBackFrom(shown.day, j.id))}
            >
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </Fold>
  );
}

type PutAwayProps = {
  title: string;
  jobs: readonly JobSummary[];
  hands: Hands;
  onForget?: (job: JobSummary, name: string) => void;
};

/** Jobs out of the list: each is brought back as it was; one that was deleted may be deleted for good, when its name is typed. */
function PutAway({ title, jobs, hands, onForget }: PutAwayProps) {
  const [sure, setSure] = useState("");
  const [name, setName] = useState("");
  if (!jobs.length) return null;
  return (
    <Fold title={title} note={`${jobs.length}`} folded>
      <ul>
        {jobs.map((j) => (
          <li key={j.id} className="flex flex-wrap items-center gap-2 border-b border-line py-1">
            <Link
              href={`/job/${j.id}/survey`}
              className="inline-flex grow items-center text-water underline pointer-coarse:min-h-[44px]"
            >
              {j.name}
            </Link>
            <span className="text-[0.8125rem] text-muted">
              {j.points} things, put away {clockTime(j.shelved ?? j.saved)}
            </span>
            <Button aria-label={`Bring back ${j.name}`} onClick={() => hands.shelve(j, "list")}>
              Bring back
            </Button>
            {onForget && sure !== j.id && (
              <Button
                tone="quiet"
                aria-label={`Delete for good: ${j.name}`}
                onClick={() => {
                  setSure(j.id);
                  setName("");
                }}
              >
                Delete for good
              </Button>
            )}
            {onForget && sure === j.id && (
              <form
                className="flex w-full flex-wrap items-end gap-2"
                onSubmit={(e) => {
                  e.preventDefault();
                  onForget(j, name);
                }}
              >
                <label className="flex grow flex-col text-[0.8125rem] text-muted">
                  Type the job's name to delete it with its record
                  <input
                    value={name}
                    placeholder={j.name}
                    className="min-h-[40px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
                    onChange={(e) => setName(e.target.value)}
                  />
                </label>
                <Button tone="dry" type="submit" disabled={name.trim() !== j.name.trim()}>
                  Delete for good
                </Button>
                <Button tone="quiet" onClick={() => setSure("")}>
                  Cancel
                </Button>
              </form>
            )}
          </li>
        ))}
      </ul>
    </Fold>
  );
}

function Job({ job, hands }: { job: JobSummary; hands: Hands }) {
  const { data, isError } = useQuery({
    queryKey: ["glance", job.id, job.revision],
    queryFn: () => api.glance(job.id),
    refetchOnMount: "always",
  });
  const told = [
    ...(data?.waits ?? []).map((w) => ({ says: w.says, tone: w.pressing ? "font-semibold text-dry" : "" })),
    ...(data?.clocks ?? [])
      .slice(0, 2)
      .map((c) => ({ says: `from ${clockTime(c.at)} on: ${c.title}`, tone: "text-water" })),
  ];
  return (
    <li className="flex flex-col rounded-[4px] border border-line bg-panel hover:border-ink">
      <Link href={`/job/${job.id}/${data?.stage ?? "survey"}`} className="flex grow flex-col p-2">
        <Small lines={data?.lines ?? []} />
        <span className="font-semibold">{job.name}</span>
        <span className={`flex flex-col text-[0.875rem] leading-5 ${LINES_HIGH}`}>
          {!data && !isError && <span className="truncate text-muted">Checking status…</span>}
          {isError && <span className="text-fault">What waits could not be told: open it to see.</span>}
          {told.slice(0, told.length > LINES ? LINES - 1 : LINES).map((t) => (
            <span key={t.says} title={t.says} className={`truncate ${t.tone}`}>
              {t.says}
            </span>
          ))}
          {told.length > LINES && <span className="text-muted">and {told.length - LINES + 1} more</span>}
        </span>
        <span className="mt-auto truncate pt-1 text-[0.8125rem] text-muted">
          {data?.hand ? `${data.hand}, ${clockTime(data.at ?? job.saved)} · ` : ""}drawing saved {clockTime(job.saved)}
        </span>
      </Link>
      <More of={job.name}>
        <Button tone="quiet" aria-label={`Duplicate ${job.name}`} onClick={() => hands.copy(job)}>
          Duplicate
        </Button>
        <Button tone="quiet" aria-label={`Archive ${job.name}`} onClick={() => hands.shelve(job, "archive")}>
          Archive
        </Button>
        <Button
          tone="quiet"
          className="ml-auto"
          aria-label={`Delete ${job.name}`}
          onClick={() => hands.shelve(job, "deleted")}
        >
          Delete
        </Button>
      </More>
    </li>
  );
}

/** What is done to a job less often than it is opened, folded away from where it is opened. */
function More({ of, children }: { of: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="flex flex-wrap justify-end gap-3 border-t border-line px-2">
      {open && (
        <div role="group" aria-label={`What to do with ${of}`} className="flex grow flex-wrap gap-3">
          {children}
        </div>
      )}
      <Button tone="quiet" aria-label={`More: ${of}`} aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Less" : "More"}
      </Button>
    </div>
  );
}

const WIDE = 300;
const HIGH = 110;

/** Work that stands higher than this share of its lesser breadth is shown standing, other work from above. */
const STANDS = 0.5;

const spread = (values: readonly number[]) => Math.max(...values) - Math.min(...values);

function howSeen(lines: AtAGlance["lines"]): Projection {
  const along = (n: number) => spread(lines.flatMap((line) => [line[n] as number, line[n + 3] as number]));
  return along(2) > STANDS * Math.min(along(0), along(1)) ? { kind: "standing", turn: 0 } : { kind: "above" };
}

/** The job's lines, as large as they fit. */
function Small({ lines }: { lines: AtAGlance["lines"] }) {
  const how = howSeen(lines);
  const ends = lines.map(
    ([ax, ay, az, bx, by, bz]) => [flat(how, { x: ax, y: ay, z: az }), flat(how, { x: bx, y: by, z: bz })] as const,
  );
  const xs = ends.flatMap(([a, b]) => [a.x, b.x]);
  const ys = ends.flatMap(([a, b]) => [a.y, b.y]);
  const [west, south] = [Math.min(...xs), Math.min(...ys)];
  const [width, height] = [spread(xs), spread(ys)];
  const scale = Math.min((WIDE - 16) / (width || 1e-9), (HIGH - 16) / (height || 1e-9));
  const x = (at: number) => WIDE / 2 + (at - west - width / 2) * scale;
  const y = (at: number) => HIGH / 2 - (at - south - height / 2) * scale;
  return (
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} aria-hidden="true" className="mb-1 w-full bg-paper">
      {(width > 0 || height > 0) && (
        <path
          d={ends.map(([a, b]) => `M${x(a.x)} ${y(a.y)}L${x(b.x)} ${y(b.y)}`).join("")}
          fill="none"
          stroke="currentColor"
          strokeWidth="2.5"
          strokeLinecap="round"
        />
      )}
    </svg>
  );
}
