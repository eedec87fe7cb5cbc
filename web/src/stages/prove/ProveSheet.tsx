import { useEffect } from "react";
import { exportLink } from "../../api/client";
import type { Section } from "../../api/types";
import { Derived } from "../../job/Derived";
import { useReadyJob, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Person } from "../../job/Person";
import { Photos } from "../../job/Photos";
import { Cautions } from "../../ui/Cautions";
import { useFormat } from "../../ui/context";
import { clockTime, wait } from "../../ui/format";
import { Box, Button, Heading, Title } from "../../ui/parts";
import { useNow } from "../../ui/useNow";
import { ConditionsHere } from "../ConditionsHere";
import { Dangers } from "../Problems";
import { Withdraw } from "../Withdraw";
import { FindFault } from "./FindFault";
import { BuryForm, TestForm } from "./Forms";
import { LeakWalk } from "./LeakWalk";
import { Readings } from "./Readings";

const instruments = { gauge: "Gauge read by hand", logger: "Logger", simulated: "Simulated gauge: not a test" };

/** Prove: each section that can be shut off, its gates, its tests. Never bury what is not tested. */
export function ProveSheet() {
  const { derived } = useReadyJob();
  const { readiness } = useStanding();
  const { sections } = derived;
  return (
    <>
      <Title note="Fill slowly, let the air out, look and feel under every joint. Never bury what is not tested.">
        Test
      </Title>
      {readiness.hand_over.joints > 0 && (
        <p className="mb-2 font-semibold">
          {readiness.hand_over.joints} joints: {readiness.hand_over.says.join(", ")}.
        </p>
      )}
      <Dangers />
      <Cautions cautions={readiness.cautions} />
      <Clocks />
      {!sections.length && <p className="text-muted">There is nothing to test yet: draw the line first.</p>}
      {sections.map((s) => (
        <SectionCard key={s.id} section={s} />
      ))}
      <FindFault />
      <LeakWalk />
      <ConditionsHere title="What is tested to" names={["test_pressure"]} />
      <Person />
    </>
  );
}

/** Every clock that still runs, on one line of time; and as a calendar for the phone. */
function Clocks() {
  const { job } = useReadyJob();
  const { clocks, readiness } = useStanding();
  const now = useNow(clocks.length > 0);
  const last = clocks.at(-1);
  if (!last) return null;
  const span = Math.max(last.at - readiness.now, 60);
  return (
    <section aria-label="Clocks" className="my-2">
      <Heading
        note={
          <a className="text-water underline" href={exportLink(job.id, "clocks")} download>
            Add to calendar
          </a>
        }
      >
        Cure timers
      </Heading>
      <svg
        viewBox="0 0 400 34"
        className="w-full"
        role="img"
        aria-label={`${clocks.length} clocks, the last at ${clockTime(last.at)}`}
        fontSize="11"
      >
        <path d="M6 12H394" stroke="var(--color-curing)" strokeWidth={3} />
        {clocks.map((c) => (
          <circle
            key={c.id}
            cx={6 + 388 * Math.min(1, (c.at - readiness.now) / span)}
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
        {clocks.slice(0, 5).map((c) => (
          <li key={c.id}>
            <b>{clockTime(c.at)}</b> {c.title}, in {wait(c.at - now)}
          </li>
        ))}
      </ul>
    </section>
  );
}

function SectionCard({ section }: { section: Section }) {
  const { letter } = section;
  const { readiness } = useStanding();
  const format = useFormat();
  const select = useJob((s) => s.select);
  const standAgain = useJob((s) => s.standAgain);
  const state = readiness.sections[section.id];
  const from = state?.pressurise.from_time ?? null;
  const now = useNow(Boolean(state && !state.pressurise.open && from));
  const due = Boolean(state && !state.pressurise.open && from !== null && from <= now && !state.unmade.length);
  useEffect(() => {
    if (due) void standAgain();
  }, [due, standAgain]);
  if (!state) return null;
  const heads = section.later.length - section.parted.length - section.below.length;
  const tested = !state.proved && state.unseen.length > 0 && state.tests.at(-1)?.proves;
  const tone = state.proved ? "proved" : state.buried ? "fault" : state.unmade.length ? "dry" : "curing";
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
              ? "Tested and buried"
              : "Buried without proof"
            : state.proved
              ? section.sort === "run"
                ? "Seen dry while it ran"
                : section.hides
                  ? "Tested: may be buried"
                  : "Tested"
              : tested
                ? "Tested: look at what it did not reach"
                : state.pressurise.open
                  ? "May take pressure"
                  : section.fault
                    ? "No test"
                    : "No pressure yet"}
        </p>
        {state.proved && section.sort === "run" && state.looked_after != null && (
          <p>Every joint; the first was looked at {wait(state.looked_after)} after the water came on.</p>
        )}
        {!state.proved && (
          <p className="first-letter:uppercase">
            {tested ? state.bury.why : state.pressurise.why}
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
        {section.sort === "drain" ? (
          <>
            Fill it, up to{" "}
            <Derived kind="test" name={section.id}>
              {format(section.test, "pressure")}
            </Derived>{" "}
            at its low end, and watch it for {wait(section.hold)}: {section.says}.
          </>
        ) : section.sort === "run" && !section.fault ? (
          `There is no test for it: ${section.says}. Say below what you saw. A slow leak shows late: look once more after ${wait(section.hold)}.`
        ) : section.fault ? null : (
          <>
            Test at{" "}
            <Derived kind="test" name={section.id}>
              {format(section.test, "pressure")}
            </Derived>{" "}
            for {wait(section.hold)}: {section.says}. The test pump goes to {section.pump_at}; air is let out at{" "}
            {section.air_at}.
          </>
        )}{" "}
        {section.joints.length} {section.joints.length === 1 ? "joint" : "joints"}
        {heads > 0 && `, ${heads} of them only after flushing`}
        {section.parted.length > 0 &&
          `, ${section.parted.length} of them parted for it: make ${section.parted.length === 1 ? "it" : "them"} again after it, run the line, and say on the leak walk below what is dry`}
        {section.below.length > 0 &&
          `, ${section.below.length} of them below the check valve, where no test from above reaches: look at ${section.below.length === 1 ? "it" : "them"} before the pump goes down, and say on the leak walk below that ${section.below.length === 1 ? "it is" : "they are"} dry`}
        .{section.isolate.length > 0 && ` First ${section.isolate.join(", ")}.`}
        {section.caps.length > 0 &&
          ` Cap ${section.caps.join(", ")}: ${section.caps.length === 1 ? "it is an open end" : "they are open ends"}.`}
      </p>
      {state.tests.map((t) => (
        <div key={t.id} className="mt-1">
          <b className={t.proves ? "text-proved" : "text-fault"}>
            {t.proves ? "Passed" : t.passed ? "Held, but does not count as a test" : "Failed"}
          </b>
          : {format(t.pressure, "pressure")}, {clockTime(t.at)}
          {t.ended ? ` for ${wait(t.ended - t.at)}` : ""}, {t.by}.{" "}
          {t.short.length > 0 && <span className="text-dry">{t.short.join("; ")}. </span>}
          {t.note}{" "}
          {t.instrument && (
            <span className="text-muted">
              {[instruments[t.instrument.kind], t.instrument.name].filter(Boolean).join(", ")}.{" "}
            </span>
          )}
          <Withdraw event={t.id} what="this test" />
        </div>
      ))}
      <Readings section={section} />
      {section.sort !== "run" && <TestForm section={section} gate={state.pressurise} />}
      {state.overrides.map((o) => (
        <p key={o} className="mt-1 text-dry">
          Went on all the same: {o}
        </p>
      ))}
      <Photos about={section.id} title={`Photos of ${letter}`} />
      {section.hides && !state.buried && <BuryForm section={section} gate={state.bury} />}
    </section>
  );
}
