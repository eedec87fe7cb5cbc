import { Link } from "wouter";
import { Button } from "../ui/parts";
import { useJob, useReadyJob } from "./jobStore";
import { useTheme } from "./theme";

/** The head of a job: whose, what stands dry, units, theme, and whether it is saved. */
export function Header({ onKeys }: { onKeys: () => void }) {
  const { job, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const saving = useJob((s) => s.saving);
  const waiting = useJob((s) => s.waiting);
  const [theme, flip] = useTheme();
  const dry = Object.values(job.readiness.joints).filter((j) => j.state === "dry").length;
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-panel px-3 py-1.5 lg:px-5">
      <Link href="/" className="inline-flex items-center pointer-coarse:min-h-[44px] text-lg font-bold">
        Hydrarch
      </Link>
      <span className="min-w-0 truncate">{plan.name}</span>
      <span className="grow" />
      {dry > 0 && (
        <Link
          href={`/job/${job.id}/keep`}
          className="inline-flex items-center pointer-coarse:min-h-[44px] rounded-[4px] bg-dry-soft px-2.5 py-1 font-semibold text-dry"
        >
          {dry} dry joint{dry === 1 ? "" : "s"}
        </Link>
      )}
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
      <Link
        href="/bench/join"
        className="inline-flex items-center pointer-coarse:min-h-[44px] px-1 text-water hover:underline"
      >
        Bench
      </Link>
      <Button tone="quiet" onClick={onKeys} className="max-md:hidden">
        Keys
      </Button>
      <span
        role="status"
        className={`text-[14px] ${saving.kind === "offline" || waiting ? "font-semibold text-dry" : "text-muted"}`}
      >
        {waiting > 0
          ? `no signal, ${waiting} kept here`
          : saving.kind === "offline"
            ? "no signal, kept here"
            : saving.kind === "saving"
              ? "saving …"
              : `saved, no. ${job.revision}`}
      </span>
    </header>
  );
}
