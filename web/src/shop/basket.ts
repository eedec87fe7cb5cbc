import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../api/client";
import { inOrder } from "../api/clock";
import type { Shop } from "../api/types";
import { live, onAnswered } from "../api/wired";
import { useBox, useReadyJob, useSaved, useSay } from "../job/hooks";
import { newEvent } from "../job/newEvent";

/** The list for the aisle, with what was ticked here and is not yet with the server. */
export function useShop(): { shop: Shop | undefined; fault: Error | null } {
  const { job } = useReadyJob();
  const saved = useSaved();
  const queries = useQueryClient();
  const { waiting } = useBox();
  const { data, error } = useQuery({
    queryKey: ["shop", job.id, job.revision],
    queryFn: () => api.shop(job.id),
    enabled: saved,
    placeholderData: (before) => before,
  });
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
  const said = waiting
    .filter((e) => e.job === job.id)
    .map((e) => e.event)
    .sort(inOrder);
  const told = (kind: "got" | "laid_out") =>
    new Map(said.filter((e) => e.kind === kind).map((e) => [e.of ?? "", e.count ?? 0]));
  const [got, laid] = [told("got"), told("laid_out")];
  const parts = data.parts.map((p) => ({ ...p, got: got.get(p.item) ?? p.got }));
  const sets = data.sets.map((s) => ({ ...s, laid: laid.has(s.id) ? laid.get(s.id) === 1 : s.laid }));
  return { shop: { ...data, parts, sets }, fault: null };
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
