import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useRef, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, Refused } from "../api/client";
import type { Beginning, JobView, Market, ProblemDocument, UnitSystem } from "../api/types";
import { DialogFrame } from "../ui/DialogFrame";
import { Said } from "../ui/Messages";
import { Button, Heading, Pick } from "../ui/parts";
import { useTheme } from "../ui/theme";
import { Devices } from "./Devices";
import { Jobs } from "./Jobs";
import { Join } from "./Join";

/** The list of jobs, and at its head a new one: begun by what it is, or from a file. */
export function Home() {
  const [theme, flip] = useTheme();
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs, refetchOnMount: "always" });
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const locked = jobs.error instanceof Refused && jobs.error.problem.status === 401;
  const empty = jobs.data?.length === 0;
  return (
    <main className="mx-auto max-w-6xl p-4 lg:px-8">
      <header className="mb-5 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1 className="text-2xl font-bold">Hydrarch</h1>
        <p className="hidden text-muted md:block">Draw the line once; the rest follows.</p>
        <span className="grow" />
        <Link href="/bench/join" className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline">
          Bench
        </Link>
        <Link href="/practice" className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline">
          Practice
        </Link>
        <Link href="/book" className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline">
          Crew parts
        </Link>
        <Button tone="quiet" onClick={flip} aria-label={`Theme: ${theme}; switch`}>
          {theme === "dark" ? "Dark" : "Light"}
        </Button>
        {!locked && jobs.data && !empty && <NewJob />}
      </header>
      {locked ? <Join onJoined={() => void jobs.refetch()} /> : jobs.error && <Said problem={problemOf(jobs.error)} />}
      {fault && <Said problem={fault} />}
      {!locked && (
        <>
          {jobs.isPending && <p className="text-muted">Loading…</p>}
          {empty && (
            <div className="mx-auto max-w-2xl">
              <p className="mb-4 text-lg">
                Hydrarch is for those who install water: draw pipe, pumps, valves and outlets once, and get sizes,
                joints, cut lengths, a shopping list, the order of work, tests and a record to hand over.
              </p>
              <Start onFault={setFault} />
              <FromFile onFault={setFault} />
            </div>
          )}
          {jobs.data && !empty && (
            <>
              <h2 className="sr-only">Jobs</h2>
              <Jobs jobs={jobs.data} onFault={setFault} />
            </>
          )}
          <Devices />
        </>
      )}
    </main>
  );
}

/** A new job, one press from the list. */
function NewJob() {
  const [open, setOpen] = useState(false);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button tone="main" className="min-h-[40px]">
          New job
        </Button>
      </Dialog.Trigger>
      <DialogFrame title="New job" width="max-w-[44rem]" close="Cancel">
        {fault && <Said problem={fault} />}
        <Start onFault={setFault} />
        <FromFile onFault={setFault} />
      </DialogFrame>
    </Dialog.Root>
  );
}

const problemOf = (error: Error): Pick<ProblemDocument, "title" | "detail" | "mend"> =>
  error instanceof Refused ? error.problem : { title: "Our fault", detail: error.message, mend: "Reload the page." };

type FaultProps = { onFault: (fault: ProblemDocument | null) => void };

function useStarted(onFault: FaultProps["onFault"]) {
  const [, go] = useLocation();
  const queries = useQueryClient();
  return async (start: Promise<JobView>, stage: string) => {
    try {
      const job = await start;
      onFault(null);
      await queries.invalidateQueries({ queryKey: ["jobs"] });
      go(`/job/${job.id}/${stage}`);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      onFault(error.problem);
    }
  };
}

function Start({ onFault }: FaultProps) {
  const started = useStarted(onFault);
  const [name, setName] = useState("");
  const [units, setUnits] = useState<UnitSystem>("metric");
  const [market, setMarket] = useState<Market | null>(null);
  const [about, setAbout] = useState<Beginning | null>(null);
  const reference = useQuery({ queryKey: ["reference"], queryFn: api.reference, staleTime: Number.POSITIVE_INFINITY });
  const start = (drawn: boolean) =>
    started(api.startJob(name.trim() || about?.title || "New job", units, market, about?.about ?? "", drawn), "survey");
  return (
    <form
      aria-label="Start a job"
      className="mt-2"
      onSubmit={(e) => {
        e.preventDefault();
        void start(Boolean(about?.drawn));
      }}
    >
      <Heading>What is it?</Heading>
      <div className="mb-2 flex flex-wrap gap-1.5" role="group" aria-label="What the job is">
        {reference.data?.beginnings.map((b) => (
          <Button
            key={b.about}
            aria-pressed={about === b}
            tone={about === b ? "main" : "plain"}
            onClick={() => setAbout(about === b ? null : b)}
          >
            {b.title}
          </Button>
        ))}
      </div>
      <p className="mb-2 text-[0.8125rem] text-muted">
        {about
          ? `Its usual components come first, and what to find out first is asked.${about.drawn ? " A small drawing shows how such a line is drawn, and every stage answers at once: change it into yours." : ""}`
          : "Or none of these: then every component is offered."}
      </p>
      <div className="flex flex-wrap items-end gap-2">
        <label className="flex grow flex-col text-[0.8125rem] text-muted">
          Name
          <input
            value={name}
            maxLength={80}
            placeholder={about?.title ?? ""}
            className="min-h-[40px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <Pick
          label="Units"
          options={[
            ["metric", "Metric"],
            ["us", "US customary"],
          ]}
          value={units}
          onPick={(v) => setUnits(v as UnitSystem)}
        />
        <Pick
          label="Fittings sold here"
          className="w-44"
          options={[["", "by the units"], ...(reference.data?.markets.map((m) => [m.market, m.title] as const) ?? [])]}
          value={market ?? ""}
          onPick={(v) => setMarket((v || null) as Market | null)}
        />
        <Button type="submit" tone="main" className="min-h-[40px]">
          {about?.drawn ? "Start with a small drawing" : "Start"}
        </Button>
        {about?.drawn && (
          <Button className="min-h-[40px]" onClick={() => void start(false)}>
            Start empty
          </Button>
        )}
      </div>
    </form>
  );
}

function FromFile({ onFault }: FaultProps) {
  const started = useStarted(onFault);
  const input = useRef<HTMLInputElement>(null);
  return (
    <section className="mt-6">
      <Heading>Or import a job file</Heading>
      <input
        ref={input}
        type="file"
        accept=".json,.zip,application/json,application/zip"
        aria-label="Job file"
        className="block w-full text-[0.875rem] file:mr-3 file:min-h-[40px] pointer-coarse:file:min-h-[44px] file:rounded-[4px] file:border file:border-line file:bg-panel file:px-3"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          if (!file) return;
          await started(api.importJob(file), "survey");
          if (input.current) input.current.value = "";
        }}
      />
    </section>
  );
}
