import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, Refused } from "../../api/client";
import type { Explanation, FaultFinding } from "../../api/types";
import { useFinding } from "../../drawing/faultStore";
import { repairOf } from "../../job/benchPlace";
import { useReadyJob, useSaved, useSay } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { newEvent } from "../../job/newEvent";
import { ToBench } from "../../job/ToBench";
import { useFormat } from "../../ui/context";
import { clockTime } from "../../ui/format";
import { Box, Button, Fold, Pick } from "../../ui/parts";
import { Withdraw } from "../Withdraw";
import { quantityOf, READ, useNames, withoutInstrument } from "./faultWords";
import { NextReading } from "./NextReading";
import { Closed, Signs } from "./Signs";

/** What is wrong with a line, by what is read on it: faults ranked, and what to read next. */
export function FindFault() {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Find the fault" className="my-3 grid gap-2">
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close Find the fault" : "Something is wrong: find the fault"}
      </Button>
      {open && <Finding />}
    </section>
  );
}

function Finding() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const show = useFinding((s) => s.show);
  const [scenario, setScenario] = useState("");
  const query = useQuery({
    queryKey: ["fault", job.id, job.revision, scenario],
    queryFn: () => api.fault(job.id, scenario),
    enabled: saved,
    retry: false,
    placeholderData: keepPreviousData,
  });
  const finding = query.data ?? null;
  useEffect(() => {
    show(finding);
    return () => show(null);
  }, [finding, show]);
  return (
    <>
      {query.isFetching && <p role="status">trying every fault …</p>}
      {query.isError && (
        <p className="text-fault">
          {query.error instanceof Refused ? query.error.problem.detail : query.error.message}
        </p>
      )}
      <p className="text-[0.875rem] text-muted">
        Let the pressure down before a joint is opened; switch a pump off, and see that it stays off, before it is
        touched.
      </p>
      {finding && (
        <Found
          finding={finding}
          onScenario={setScenario}
          again={async () => {
            await query.refetch();
          }}
        />
      )}
    </>
  );
}

type FoundProps = { finding: FaultFinding; onScenario: (id: string) => void; again: () => Promise<void> };

function Found({ finding, onScenario, again }: FoundProps) {
  const { found } = finding;
  const format = useFormat();
  const name = useNames();
  return (
    <>
      <Pick
        label="What runs while it is read"
        options={finding.scenarios.map((s) => [s.id, s.readings ? `${s.name} (${s.readings} read)` : s.name] as const)}
        value={finding.scenario}
        onPick={onScenario}
      />
      {finding.gone > 0 && (
        <p className="text-[0.875rem]">
          {finding.gone} more were read at things or in scenarios that are not there any more; they do not count.
        </p>
      )}
      <Closed finding={finding} name={name} again={again} />
      <Signs finding={finding} name={name} again={again} />
      {(found.readings.length > 0 || found.signs > 0) && <Explanations finding={finding} again={again} />}
      <NextReading key={`${found.next?.point} ${found.next?.shut}`} finding={finding} again={again} />
      {found.looks.length > 1 && (
        <Fold title="Worklist" note={`${found.looks.length} looks`} folded>
          <ol className="list-decimal pl-6">
            {found.looks.map((l) => (
              <li key={`${l.point} ${l.what} ${l.shut}`}>
                {l.shut && `Shut ${name(l.shut)}, `}read {READ[l.what]} at {name(l.point)}, about{" "}
                {Math.round(l.minutes)} min
              </li>
            ))}
          </ol>
        </Fold>
      )}
      {found.readings.length > 0 && (
        <Fold title="What was read" note={`${found.readings.length}`} folded={false}>
          <ul>
            {found.readings.map((r) => (
              <li key={r.id} className="border-b border-line py-1">
                <span className={r.fits ? "" : "font-semibold text-dry"}>
                  {name(r.point)} {r.what === "takes" && "takes "}
                  {format(r.value, quantityOf(r.what))}
                  {r.shut && ` with ${name(r.shut)} shut`}
                </span>
                , expected {format(r.expected, quantityOf(r.what))}
                {r.fits ? ", fits" : ""}
                <span className="block text-[0.8125rem] text-muted">
                  give or take {format(r.doubt, quantityOf(r.what))}; {finding.by[r.id]?.[0]},{" "}
                  {clockTime(Number(finding.by[r.id]?.[1] ?? 0))}
                  {finding.by[r.id]?.[2] && `, ${finding.by[r.id]?.[2]}`}
                </span>
                <Withdraw event={r.id} what="this reading" onDone={() => void again()} />
              </li>
            ))}
          </ul>
          {found.left_out.length > 0 && (
            <p>{found.left_out.length} more were read where nothing is worked out in this scenario.</p>
          )}
        </Fold>
      )}
    </>
  );
}

type ExplanationsProps = { finding: FaultFinding; again: () => Promise<void> };

function Explanations({ finding, again }: ExplanationsProps) {
  const { found } = finding;
  const percent = (share: number) => `${Math.round(share * 100)} %`;
  return (
    <section aria-label="What would explain it">
      <h3 className="mt-3 font-semibold">What would explain it</h3>
      {found.unexplained && (
        <Box tone="dry">
          Nothing listed here explains all of it: read once more, and look at what is not on the drawing.
        </Box>
      )}
      <ol>
        {found.explanations.map((e, n) => (
          <ExplainedBy
            key={e.places.flat().join(" ") + e.kinds.join(" ")}
            explanation={e}
            number={n + 1}
            finding={finding}
            again={again}
          />
        ))}
      </ol>
      <p className="text-[0.875rem] text-muted">
        {found.others > 0.005 && `${found.count} others together: ${percent(found.others)}. `}
        Nothing wrong, and it only looks so: {percent(found.nothing)}. Something not listed: {percent(found.unlisted)}.
      </p>
    </section>
  );
}

type ExplainedProps = ExplanationsProps & { explanation: Explanation; number: number };

function ExplainedBy({ explanation: e, number, finding, again }: ExplainedProps) {
  const { scenario, suspected, words } = finding;
  const { say } = useSay();
  const [sure, setSure] = useState(false);
  const { plan, derived } = useReadyJob();
  const select = useJob((s) => s.select);
  const name = useNames();
  const size = useSizeWords();
  const places = e.places.flat();
  const first = words[e.kinds[0] ?? ""];
  const run =
    plan.runs.find((r) => r.id === places[0]) ??
    plan.runs.find((r) => r.a.point === places[0] || r.b.point === places[0]);
  const why = suspected[places[0] ?? ""] ?? [];
  const choice = run && derived.sizes.choices[run.id];
  const found = async () => {
    const seen = { ...withoutInstrument, what: "found", word: e.kinds[0] ?? "", scenario } as const;
    if (await say([newEvent("observed", { of: places[0] ?? "", seen })])) await again();
  };
  return (
    <li className="border-b border-line py-2">
      <div className="flex items-start gap-2">
        <span className="grow">
          <b>
            {number} {e.kinds.map((k) => words[k]?.title ?? k).join(" and ")}
          </b>
          , {e.kinds.map((_, i) => whereWords((e.places[i] ?? []).map(name))).join(" and ")}
          {e.measured && `: ${e.kinds.map((k, i) => size(k, e.sizes[i] ?? 0)).join(", ")}`}
          {!e.explains && <span className="text-dry"> (explains it in part only)</span>}
        </span>
        <span className="whitespace-nowrap font-semibold">{Math.round(e.probability * 100)} %</span>
      </div>
      <div className="mt-1 h-1.5 bg-line" aria-hidden>
        <div className="h-1.5 bg-water" style={{ width: `${Math.round(e.probability * 100)}%` }} />
      </div>
      {e.kinds[0] === "leak" && why.length > 0 && (
        <p className="mt-1 text-[0.8125rem] text-muted">
          Joints there: {why.map(([what, count]) => `${count} ${what}`).join(", ")}.
        </p>
      )}
      {number === 1 && first && <p className="mt-1">{first.fix}</p>}
      <p className="mt-1 flex flex-wrap gap-3">
        <Button tone="quiet" onClick={() => select(places[0] ?? null)}>
          Show me
        </Button>
        {run && choice && !run.coupled && first?.broke && (
          <ToBench
            className="inline-flex items-center text-water underline"
            href={repairOf({
              series: choice.series,
              size: choice.size,
              situation: run.situation,
              broke: first.broke,
              of: places[0],
              where: name(places[0] ?? ""),
            })}
          >
            It is there: mend it
          </ToBench>
        )}
        {e.kinds.length === 1 && places[0] && (
          <Button tone="quiet" onClick={() => (sure ? void found() : setSure(true))}>
            {sure ? `Yes, found at ${name(places[0])}` : "Found it here"}
          </Button>
        )}
      </p>
    </li>
  );
}

/** Places that no reading tells apart, in words. */
const whereWords = (names: readonly string[]): string =>
  names.length > 3
    ? `on one of ${names.length} places that no reading tells apart, ${names[0]} among them`
    : names.join(" or ");

function useSizeWords(): (kind: string, size: number) => string {
  const format = useFormat();
  return (kind, size) => {
    if (kind === "leak") return `about ${format(size, "flow")}`;
    if (kind === "worn" || kind === "clogged") return `about ${size.toFixed(1)} times what it should pass`;
    if (kind === "regulator off") return `its pressure about ${size.toFixed(1)} times what it is set to`;
    if (kind === "pump worn") return `about ${Math.round(size * 100)} % of its flow runs back inside`;
    if (kind === "pump slow") return `about ${Math.round(size * 100)} % of its speed gone`;
    if (kind === "suction air") return `about ${Math.round(size * 100)} % of what it lifts gone`;
    if (kind === "weak source") return `about ${Math.round(size * 100)} % of its pressure gone`;
    return `bore down to about ${format(size, "takeoff")}`;
  };
}
