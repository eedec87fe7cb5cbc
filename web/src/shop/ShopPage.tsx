import { useState } from "react";
import { Link } from "wouter";
import { exportLink } from "../api/client";
import type { ShopPart } from "../api/types";
import { useReadyJob } from "../job/hooks";
import { Said } from "../ui/Messages";
import { Box } from "../ui/parts";
import { Tick } from "../ui/Tick";
import { useTitle } from "../ui/useTitle";
import { useShop, useTicks } from "./basket";
import { PartCard } from "./PartCard";

const SHOWS = [
  ["today", "Today"],
  ["all", "Whole job"],
  ["basket", "Basket"],
  ["sets", "Lay out"],
] as const;
type Shows = (typeof SHOWS)[number][0];

/** The shop, for one thumb: by shelf, today's missing first, each part at life size; at the end the whole set is laid out once. */
export function ShopPage({ status }: { status: React.ReactNode }) {
  const { job, plan } = useReadyJob();
  const { shop, fault } = useShop();
  useTitle("Shop", plan.name);
  const ticks = useTicks();
  const [shows, setShows] = useState<Shows>("today");
  const [open, setOpen] = useState<string | null>(null);
  const wanted = (p: ShopPart) => (shows === "today" ? p.today > 0 : shows === "basket" ? p.got > 0 : true);
  const parts = (shop?.parts ?? []).filter(wanted);
  const shelves = [...new Set(parts.map((p) => p.shelf))];
  return (
    <div className="mx-auto max-w-xl">
      <header className="sticky top-0 z-10 border-b border-line bg-panel px-3 pt-2">
        <p className="flex flex-wrap items-center gap-x-3">
          <Link href={`/job/${job.id}/cut`} className="inline-flex min-h-[44px] items-center text-water underline">
            Back
          </Link>
          <span className="min-w-0 grow truncate">
            <b>The shop</b> {plan.name}
          </span>
          <a
            className="inline-flex min-h-[44px] items-center text-water underline"
            href={exportLink(job.id, "list")}
            target="_blank"
            rel="noreferrer"
          >
            As a message
          </a>
          {status}
        </p>
        <div className="grid grid-cols-4 border border-ink" role="group" aria-label="What is shown">
          {SHOWS.map(([key, words]) => (
            <button
              key={key}
              type="button"
              aria-pressed={shows === key}
              className="min-h-[44px] font-semibold aria-pressed:bg-ink aria-pressed:text-paper"
              onClick={() => setShows(key)}
            >
              {words}
            </button>
          ))}
        </div>
        <p className="py-1.5 text-[0.875rem]" role="status">
          {shop?.says ?? "Looking …"}
        </p>
      </header>
      <main className="p-3">
        {fault && <Box tone="fault">{fault.message}</Box>}
        {ticks.fault && <Said problem={ticks.fault} />}
        {shows === "sets" ? (
          <Sets />
        ) : (
          shelves.map((shelf) => {
            const here = parts.filter((p) => p.shelf === shelf);
            const lack = (p: ShopPart) => (shows === "today" ? p.today : p.count) > p.got;
            here.sort((a, b) => Number(lack(b)) - Number(lack(a)));
            return (
              <section key={shelf} aria-label={shelf} className="mb-4">
                <h2 className="flex justify-between font-semibold">
                  {shelf}
                  <span className="text-[0.8125rem] font-normal text-muted">
                    {here.filter((p) => !lack(p)).length} of {here.length} in the basket
                  </span>
                </h2>
                <ul>
                  {here.map((p) => (
                    <PartCard
                      key={p.item}
                      part={p}
                      count={shows === "today" ? p.today : p.count}
                      open={open === p.item}
                      onOpen={() => setOpen(open === p.item ? null : p.item)}
                      onGot={(n) => ticks.got(p.item, n)}
                    />
                  ))}
                </ul>
              </section>
            );
          })
        )}
        {shop && shows !== "sets" && !parts.length && (
          <p className="text-muted">
            {shows === "today"
              ? "Today's work wants nothing from the shop."
              : shows === "basket"
                ? "Nothing is in the basket yet."
                : "There is nothing on the list yet: draw the line first."}
          </p>
        )}
      </main>
    </div>
  );
}

/** Before leaving: each assembly's set ticked once, so that what is forgotten shows itself. */
function Sets() {
  const { shop } = useShop();
  const ticks = useTicks();
  const sets = shop?.sets ?? [];
  if (!sets.length)
    return <p className="text-muted">No joint of this drawing is still to be made, so there is nothing to lay out.</p>;
  const laid = sets.filter((s) => s.laid).length;
  return (
    <section aria-label="Lay out">
      <p className="mb-2">
        Lay each set out on the tailgate and tick it whole.{" "}
        <b>
          {laid} of {sets.length} lie there.
        </b>
      </p>
      <ul>
        {sets.map((s) => (
          <li
            key={s.id}
            className={`mb-2 border p-2 ${s.laid ? "border-proved bg-proved-soft" : "border-line bg-panel"}`}
          >
            <p className="flex items-center gap-3">
              <Tick checked={s.laid} label={`${s.title} lies there whole`} onTick={() => ticks.laid(s.id, !s.laid)} />
              <b className="grow">{s.title}</b>
            </p>
            <ul className="ml-14 text-[0.9375rem]">
              {s.parts.map(([name, n]) => (
                <li key={name}>
                  <b>{n}</b> {name}
                </li>
              ))}
            </ul>
            {s.missing.length > 0 && !s.laid && (
              <p className="ml-14 text-[0.875rem] font-semibold text-dry">Not in the basket: {s.missing.join(", ")}</p>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
