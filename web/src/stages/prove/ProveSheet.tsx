import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { Section } from "../../api/types";
import { useFormat } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { useNow } from "../../app/useNow";
import { Derived } from "../../ui/DerivedNumber";
import { clockTime, wait } from "../../ui/format";
import { Box, Button, Heading, Title } from "../../ui/parts";
import { Cautions } from "../Cautions";
import { Person } from "../make/Person";
import { BuryForm, TestForm } from "./Forms";
import { LeakWalk } from "./LeakWalk";
import { Readings } from "./Readings";

/** Prove: each section that can be shut off, its gates, its tests. Never bury what is not proved. */
export function ProveSheet() {
  const { job } = useReadyJob();
  const { sections } = job.derived;
  return (
    <>
      <Title note="Fill slowly, let the air out, look and feel under every joint. Never bury what is not proved.">
        Prove
      </Title>
      <Cautions cautions={job.readiness.cautions} />
      <Clocks />
      {!sections.length && <p className="text-muted">There is nothing to test yet: draw the line first.</p>}
      {sections.map((s, i) => (
        <SectionCard key={s.id} section={s} letter={String.fromCharCode(65 + i)} />
      ))}
      <LeakWalk />
      <Person />
    </>
  );
}

/** Every clock that still runs, on one line of time; and as a calendar for the phone. */
function Clocks() {
  const { job } = useReadyJob();
  const query = useQuery({
    queryKey: ["clocks", job.id, job.revision, job.readiness.now],
    queryFn: () => api.clocks(job.id),
  });
  const now = useNow(Boolean(query.data?.length));
  const last = query.data?.at(-1);
  if (!query.data?.length || !last) return null;
  const span = Math.max(last.at - job.readiness.now, 60);
  return (
    <section aria-label="Clocks" className="my-2">
      <Heading
        note={
          <a className="text-water underline" href={`/api/jobs/${encodeURIComponent(job.id)}/clocks.ics`} download>
            as a calendar
          </a>
        }
      >
        Clocks that run
      </Heading>
      <svg
        viewBox="0 0 400 34"
        className="w-full"
        role="img"
        aria-label={`${query.data.length} clocks, the last at ${clockTime(last.at)}`}
        fontSize="11"
      >
        <path d="M6 12H394" stroke="var(--color-curing)" strokeWidth={3} />
        {query.data.map((c) => (
          <circle
            key={c.id}
            cx={6 + 388 * Math.min(1, (c.at - job.readiness.now) / span)}
            cy={12}
            r={5}
            fill="var(--color-panel)"
            stroke="var(--color-curing)"
            strokeWidth={2}
          >
            <title>{c.title}</title>
          </circle>
        ))}
        <text x={6} y={30} fill="var(--color-muted)">
          now
        </text>
        <text x={394} y={30} textAnchor="end" fill="var(--color-muted)">
          {clockTime(last.at)}
        </text>
      </svg>
      <ul>
        {query.data.slice(0, 5).map((c) => (
          <li key={c.id}>
            <b>{clockTime(c.at)}</b> {c.title}, in {wait(c.at - now)}
          </li>
        ))}
      </ul>
    </section>
  );
}

function SectionCard({ section, letter }: { section: Section; letter: string }) {
  const { job, plan } = useReadyJob();
  const format = useFormat();
  const select = useJob((s) => s.select);
  const refresh = useJob((s) => s.refresh);
  const state = job.readiness.sections[section.id];
  const from = state?.pressurise.from_time ?? null;
  const now = useNow(Boolean(state && !state.pressurise.open && from));
  if (!state) return null;
  const ready = !state.pressurise.open && from !== null && from <= now && !state.unmade.length;
  if (ready) void refresh();
  const tone = state.proved ? "proved" : state.buried ? "fault" : state.unmade.length ? "dry" : "curing";
  const heads = plan.points.some(
    (p) => p.what.kind === "sprinkler" && section.joints.some((j) => j.startsWith(`${p.id}.`)),
  );
  return (
    <section aria-label={`Section ${letter}`} className="mt-4 border-t border-line pt-3">
      <Heading
        note={
          <Button tone="quiet" onClick={() => select(section.id)}>
            Show me
          </Button>
        }
      >
        {letter}: {section.name}
      </Heading>
      <Box tone={tone}>
        <p className="font-bold">
          {state.buried
            ? state.proved
              ? "Proved and buried"
              : "Buried without proof"
            : state.proved
              ? "Proved: may be buried"
              : state.pressurise.open
                ? "May take pressure"
                : "No pressure yet"}
        </p>
        {!state.proved && (
          <p>
            {state.pressurise.why}
            {state.dry.length > 0 && `; ${state.dry.length} of them only dry-fitted`}
            {from !== null && !state.pressurise.open && `: ready in ${wait(from - now)}, at ${clockTime(from)}`}.
            {state.curing.length > 0 &&
              !state.unmade.length &&
              (state.fill.open
                ? ` It may be filled now: ${state.fill.why}.`
                : state.fill.from_time && ` It may be filled slowly from ${clockTime(state.fill.from_time)}.`)}
          </p>
        )}
      </Box>
      <p>
        Test at{" "}
        <Derived kind="test" name={section.id}>
          {format(section.test, "pressure")}
        </Derived>
        : {section.says}. {section.joints.length} joints.
        {section.isolate.length > 0 && ` First ${section.isolate.join(", ")}.`}
        {heads && " Cap the risers for it: heads are open ends."}
      </p>
      {state.tests.map((t) => (
        <p key={t.id} className="mt-1">
          <b className={t.passed ? "text-proved" : "text-fault"}>{t.passed ? "Passed" : "Failed"}</b>:{" "}
          {format(t.pressure, "pressure")}, {clockTime(t.at)}
          {t.ended ? ` for ${wait(t.ended - t.at)}` : ""}, {t.by}. {t.note}
        </p>
      ))}
      <Readings section={section} />
      <TestForm section={section} gate={state.pressurise} />
      {state.overrides.map((o) => (
        <p key={o} className="mt-1 text-dry">
          Went on all the same: {o}
        </p>
      ))}
      {!state.buried && <BuryForm section={section} gate={state.bury} />}
    </section>
  );
}
