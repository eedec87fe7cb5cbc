import type { Caution } from "../api/types";

/** What can hurt someone, where the step is, in plain words. */
export function Cautions({ cautions }: { cautions: readonly Caution[] }) {
  if (!cautions.length) return null;
  return (
    <section aria-label="Cautions" className="my-3">
      {cautions.map((c) => (
        <p key={c.code} className="my-1.5 flex gap-2 text-[0.875rem]">
          <svg width="20" height="20" viewBox="-10 -10 20 20" aria-hidden="true" className="mt-0.5 shrink-0">
            <circle r="8.500" fill="var(--color-dry-soft)" stroke="var(--color-dry)" strokeWidth="1.800" />
            <path d="M0-4.500V1M0 4V4.100" stroke="var(--color-dry)" strokeWidth="2.200" strokeLinecap="round" />
          </svg>
          <span>
            <b>{c.title}.</b> {c.text}
          </span>
        </p>
      ))}
      <p className="text-[0.8125rem] text-muted">Local codes and licensed practice come first.</p>
    </section>
  );
}
