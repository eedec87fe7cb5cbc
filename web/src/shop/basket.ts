import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api } from "../api/client";
import { inOrder } from "../api/clock";
import type { Entry } from "../api/outbox";
import type { Shop } from "../api/types";
import { live, onAnswered } from "../api/wired";
import { useBox, useReadyJob, useSaved, useSay } from "../job/hooks";
import { newEvent } from "../job/newEvent";

const AGAIN = 4000; // ms after which a list that did not come is asked for again

/** The list for the aisle, with what was ticked here and is not yet with the server. */
export function useShop(): { shop: Shop | undefined; fault: Error | null } {
  const { job } = useReadyJob();
  const saved = useSaved();
  const queries = useQueryClient();
  const { waiting } = useBox();
  const { data, error, dataUpdatedAt } = useQuery({
    queryKey: ["shop", job.id, job.revision],
    queryFn: () => api.shop(job.id),
    enabled: saved,
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.status === "error" || query.state.isInvalidated ? AGAIN : false),
  });
  const said = useSaid(waiting, dataUpdatedAt);
  useEffect(() => {
    const again = () => void queries.invalidateQueries({ queryKey: ["shop", job.id] });
    const left = live.listen((news) => news.job === job.id && news.what === "events" && again());
    const answered = onAnswered((told) => told.job === job.id && again());
    return () => {
      left();
      answered();
    };
  }, [job.id, queries]);
  if (!data) return { shop: undefined, fault: error };
  const mine = said
    .filter((e) => e.job === job.id)
    .map((e) => e.event)
    .sort(inOrder);
  const told = (kind: "got" | "laid_out") =>
    new Map(mine.filter((e) => e.kind === kind).map((e) => [e.of ?? "", e.count ?? 0]));
  const [got, laid] = [told("got"), told("laid_out")];
  const parts = data.parts.map((p) => ({ ...p, got: got.get(p.item) ?? p.got }));
  const sets = data.sets.map((s) => ({ ...s, laid: laid.has(s.id) ? laid.get(s.id) === 1 : s.laid }));
  return { shop: { ...data, parts, sets }, fault: null };
}

/**
 * What was said here and is not in the list yet: what still waits, and what the server has, until the list has been read again after
 * that. Over a bad link the list may come long after the answer, and what was said must not look unsaid meanwhile.
 */
function useSaid(waiting: readonly Entry[], updated: number): Entry[] {
  const known = useRef(new Map<string, { entry: Entry; gone: number }>());
  const read = useRef({ updated, at: 0 }); // by the clock that nobody sets
  if (read.current.updated !== updated) read.current = { updated, at: performance.now() };
  const there = new Set(waiting.map((e) => e.event.id));
  for (const entry of waiting) known.current.set(entry.event.id, { entry, gone: Number.POSITIVE_INFINITY });
  const found: Entry[] = [];
  for (const [id, kept] of known.current) {
    if (!there.has(id) && kept.gone === Number.POSITIVE_INFINITY) kept.gone = performance.now();
    if (kept.gone < read.current.at) known.current.delete(id);
    else found.push(kept.entry);
  }
  return found;
}

/** Ticks: so many of a part are in the basket; a set lies there whole. */
export function useTicks() {
  const { say, fault } = useSay();
  return {
    fault,
    got: (item: string, count: number) => void say([newEvent("got", { of: item, count })]),
    laid: (set: string, whole: boolean) => void say([newEvent("laid_out", { of: set, count: whole ? 1 : 0 })]),
  };
}
