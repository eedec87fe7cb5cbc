import { useState } from "react";
import { Link } from "wouter";
import { goOver, trusted, useOffline } from "../api/offline";
import { useSignal } from "../api/signal";
import type { StateName } from "../api/types";
import { AskBench } from "../job/AskBench";
import { useBox, useReadyJob, useStands } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useLeft } from "../job/leftBehind";
import { useCrew } from "../job/Person";
import { usePhotoBox } from "../job/photoBox";
import type { Saving } from "../job/sync";
import { ToBench } from "../job/ToBench";
import { clockTime } from "../ui/format";
import { Button } from "../ui/parts";
import { useTheme } from "../ui/theme";
import { Others } from "./Others";
import { Waits } from "./Waits";

const waits: Record<Exclude<Saving, "saved" | "saving">, string> = {
  offline: "no signal",
  locked: "the server asks for the crew's passphrase again",
  busy: "the server is busy",
  server: "the server failed",
};

/** The head of a job: whose, what is unfinished, units, theme, and whether it is saved. */
export function Header({ onKeys, onFind }: { onKeys: () => void; onFind: () => void }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const told = useJob((s) => s.progress?.dry ?? 0);
  const stands = useStands();
  const count = (state: StateName) =>
    stands ? Object.values(stands.readiness.joints).filter((j) => j.state === state).length : 0;
  const [leaks, dry] = [count("leaks"), stands ? count("dry") : told];
  const unfinished = [
    ...(leaks ? [`${leaks} ${leaks === 1 ? "leak" : "leaks"}`] : []),
    ...(dry ? [`${dry} dry joint${dry === 1 ? "" : "s"}`] : []),
  ].join(", ");
  const [theme, flip] = useTheme();
  const [more, setMore] = useState(false);
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-panel px-3 py-1.5 small:gap-x-2 small:gap-y-0 small:py-0 small:pb-1 lg:px-5">
      <Link
        href="/"
        className="inline-flex items-center text-lg font-bold pointer-coarse:min-h-[44px] small:min-w-[28px]"
      >
        <span className="small:sr-only">Hydrarch</span>
        <span aria-hidden="true" className="hidden small:inline">
          ‹
        </span>
      </Link>
      <span className="min-w-0 truncate small:flex-1 small:font-bold">{plan.name}</span>
      <span className="grow small:hidden" />
      {unfinished && (
        <Link
          href={`/job/${job.id}/keep`}
          className="inline-flex items-center pointer-coarse:min-h-[44px] rounded-[4px] bg-dry-soft px-2.5 py-1 font-semibold text-dry"
        >
          {unfinished}
        </Link>
      )}
      <span className="hidden small:contents">
        <Button tone="quiet" aria-expanded={more} onClick={() => setMore((shown) => !shown)}>
          {more ? "Less" : "More"}
        </Button>
      </span>
      <div
        className={`contents ${more ? "small:order-last small:flex small:w-full small:flex-wrap small:gap-x-4" : "small:hidden"}`}
      >
        <Button
          tone="quiet"
          aria-label={`Units: ${plan.units === "us" ? "US" : "metric"}; switch`}
          onClick={() => edit((p) => ({ ...p, units: p.units === "us" ? "metric" : "us" }))}
        >
          {plan.units === "us" ? "US units" : "Metric"}
        </Button>
        <Button tone="quiet" aria-label={`Theme: ${theme}; switch`} onClick={flip}>
          {theme === "dark" ? "Dark" : "Light"}
        </Button>
        <ToBench
          href="/bench/join"
          className="inline-flex items-center pointer-coarse:min-h-[44px] px-1 text-water hover:underline"
        >
          Bench
        </ToBench>
        <AskBench />
        <Button tone="quiet" onClick={onFind}>
          Find
        </Button>
        <Button tone="quiet" onClick={onKeys} className="max-md:hidden">
          Keys
        </Button>
      </div>
      <div className="contents small:flex small:flex-wrap small:items-center small:gap-x-3 small:leading-tight max-md:w-full">
        <Others />
        <Kept />
      </div>
    </header>
  );
}

/** How far a clock is off, in words. */
function ahead(seconds: number): string {
  const off = Math.abs(seconds);
  const long =
    off < 5400
      ? `${Math.round(off / 60)} min`
      : off < 172800
        ? `${Math.round(off / 3600)} h`
        : `${Math.round(off / 86400)} days`;
  return `${long} ${seconds > 0 ? "fast" : "slow"}`;
}

/** Whether the drawing is saved and what was said is with the server; if not, why, in true words. */
export function Kept({ onlyTrouble = false }: { onlyTrouble?: boolean }) {
  const revision = useJob((s) => s.revision);
  const saving = useJob((s) => s.saving);
  const unkept = useJob((s) => s.unkept);
  const box = useBox();
  const photos = usePhotoBox();
  const left = useLeft((s) => s.jobs);
  const lost = useSignal((s) => s.lostAt !== null);
  const asOf = useJob((s) => s.standing?.readiness.now ?? null);
  const { newer, able } = useOffline();
  const crew = useCrew();
  const id = useJob((s) => s.id);
  const along = useSignal((s) => s.along?.job === id && s.along.revision === revision);
  const told: string[] = [];
  if (saving !== "saved" && saving !== "saving") told.push(`${waits[saving]}, the drawing is kept here`);
  if (box.waiting.length) told.push(`${box.trouble?.says ?? "sending"}, ${box.waiting.length} kept here`);
  if (lost && !told.length) told.push(asOf ? `no signal: as it stood at ${clockTime(asOf)}` : "no signal");
  if (photos.waiting.length)
    told.push(`${photos.waiting.length} photo${photos.waiting.length === 1 ? "" : "s"} kept here`);
  if (box.clock) told.push(`this device's clock is ${ahead(-box.clock)}: its times are put right`);
  if (left.size)
    told.push(`${left.size === 1 ? "the drawing of another job is" : `${left.size} other drawings are`} kept here`);
  if (unkept || box.unkept || photos.unkept) told.push("this device is full: do not close the page until it is saved");
  if (onlyTrouble)
    return told.length ? (
      <p role="status" className="px-3 py-1 text-[0.875rem] font-semibold text-dry">
        {told.join("; ")}
      </p>
    ) : null;
  return (
    <>
      {newer && (
        <Button tone="quiet" onClick={() => goOver(newer)}>
          Newer page
        </Button>
      )}
      {crew.data?.trust && !trusted() && (
        <a
          href="/trust"
          className="inline-flex items-center pointer-coarse:min-h-[44px] text-[0.8125rem] text-water underline"
        >
          opens only with a signal: mend that
        </a>
      )}
      {along && able && !told.length && (
        <span
          className="text-[0.8125rem] text-muted max-sm:sr-only"
          title="All of this job is on this device: it opens with no signal"
        >
          taken along
        </span>
      )}
      <span role="status" className={`text-[0.875rem] ${told.length ? "font-semibold text-dry" : "text-muted"}`}>
        {told.length ? told.join("; ") : saving === "saving" ? "saving …" : `saved, no. ${revision}`}
      </span>
      <Waits />
    </>
  );
}
