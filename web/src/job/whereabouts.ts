import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, Refused } from "../api/client";
import { page } from "../api/id";
import type { Here, Stage } from "../api/types";
import { live } from "../api/wired";
import { useJob } from "./jobStore";
import { usePerson } from "./Person";

/** Who else has this job open, and where in it; and telling the others where this page is. */

const SOON = 400;
const AGAIN = 30_000; // a page that says nothing for longer than that twice over is taken to be gone

const quiet = (error: unknown) => {
  if (!(error instanceof Refused)) throw error;
};

/** The others at a job. */
export function useOthers(job: string): readonly Here[] {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["here", job],
    queryFn: () => api.here(job),
    refetchInterval: AGAIN,
    retry: false,
  });
  useEffect(
    () =>
      live.listen((news) => {
        if (news.what === "here" && news.job === job && news.by !== page)
          void queries.invalidateQueries({ queryKey: ["here", job] });
      }),
    [job, queries],
  );
  const mine = (data ?? []).filter((h) => h.page !== page);
  return [...new Map(mine.map((h) => [h.name, h])).values()]; // one who reloaded the page, or has two open, is one
}

/** Tell the others which stage and what of it is open here, while it is. */
export function useSayWhere(job: string, stage: Stage): void {
  const name = usePerson();
  const at = useJob((s) => s.selected ?? "");
  useEffect(() => {
    const say = () => document.hidden || void api.sayWhere(job, { name, stage, at, gone: false }).catch(quiet);
    const soon = setTimeout(say, SOON);
    const again = setInterval(say, AGAIN);
    return () => {
      clearTimeout(soon);
      clearInterval(again);
    };
  }, [job, stage, at, name]);
  useEffect(() => {
    const leave = () => api.leave(job, name);
    addEventListener("pagehide", leave);
    return () => {
      removeEventListener("pagehide", leave);
      leave();
    };
  }, [job, name]);
}
