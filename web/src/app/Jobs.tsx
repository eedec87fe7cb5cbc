import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api } from "../api/client";
import type { AtAGlance, JobSummary } from "../api/types";
import { flat, type Projection } from "../drawing/projection";
import { clockTime } from "../ui/format";

const MANY = 6;
/** Jobs worked out for the list at once; a search brings the others up. */
const SHOWN = 24;

/** Every job as its own small drawing with what waits; each opens where the work waits. */
export function Jobs({ jobs }: { jobs: readonly JobSummary[] }) {
  const [words, setWords] = useState("");
  const wanted = words.trim().toLowerCase();
  const found = jobs.filter((j) => j.name.toLowerCase().includes(wanted));
  return (
    <>
      {jobs.length > MANY && (
        <input
          type="search"
          aria-label="Find a job"
          placeholder="Find a job"
          value={words}
          className="mb-2 min-h-[40px] w-full rounded-[4px] border border-line bg-panel px-2 pointer-coarse:min-h-[44px]"
          onChange={(e) => setWords(e.target.value)}
        />
      )}
      {!found.length && jobs.length > 0 && <p className="text-muted">No job has {words.trim()} in its name.</p>}
      <ul className="grid gap-3 sm:grid-cols-2">
        {found.slice(0, SHOWN).map((j) => (
          <Job key={j.id} job={j} />
        ))}
      </ul>
      {found.length > SHOWN && (
        <p className="mt-2 text-muted">{found.length - SHOWN} more, saved earlier: find them by name.</p>
      )}
    </>
  );
}

function Job({ job }: { job: JobSummary }) {
  const { data, isError } = useQuery({
    queryKey: ["glance", job.id, job.revision],
    queryFn: () => api.glance(job.id),
    refetchOnMount: "always",
  });
  return (
    <li>
      <Link
        href={`/job/${job.id}/${data?.stage ?? "survey"}`}
        className="flex h-full flex-col rounded-[4px] border border-line bg-panel p-2 hover:border-ink"
      >
        <Small lines={data?.lines ?? []} />
        <span className="font-semibold">{job.name}</span>
        {!data && !isError && <span className="text-[14px] text-muted">Looking what waits …</span>}
        {isError && <span className="text-[14px] text-fault">What waits could not be told: open it to see.</span>}
        {data?.waits.map((w) => (
          <span key={w.says} className={`text-[14px] ${w.dry ? "font-semibold text-dry" : ""}`}>
            {w.says}
          </span>
        ))}
        {data?.clocks.slice(0, 2).map((c) => (
          <span key={c.id} className="text-[14px] text-water">
            from {clockTime(c.at)} on: {c.title}
          </span>
        ))}
        <span className="mt-auto pt-1 text-[13px] text-muted">
          {data?.hand ? `${data.hand}, ${clockTime(data.at ?? job.saved)} · ` : ""}drawing saved {clockTime(job.saved)}
        </span>
      </Link>
    </li>
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
