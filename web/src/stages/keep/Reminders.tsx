import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, exportLink } from "../../api/client";
import { rightNow } from "../../api/clock";
import { useReadyJob, useSaved, useSay } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { newEvent } from "../../job/newEvent";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Button, Fold } from "../../ui/parts";

/** What is to be done again once the line is in: the next due first, each with who did it last. */
export function Reminders() {
  const { job } = useReadyJob();
  const select = useJob((s) => s.select);
  const saved = useSaved();
  const queries = useQueryClient();
  const { say, fault } = useSay();
  const key = ["reminders", job.id, job.revision];
  const { data } = useQuery({ queryKey: key, queryFn: () => api.reminders(job.id), enabled: saved });
  if (!data?.length) return null;
  const due = data.filter((r) => r.due < rightNow()).length;
  return (
    <Fold title="To be done again" note={due ? `${due} due` : `next ${day(data[0]?.due ?? 0)}`} folded={!due}>
      {fault && <Said problem={fault} />}
      <ul>
        {data.map((r) => (
          <li key={r.id} className="border-b border-line py-2">
            <p className="flex flex-wrap items-start gap-2">
              <span className="grow">
                <b className={r.due < rightNow() ? "text-dry" : ""}>{r.title}</b>
                <span className="block text-[0.8125rem] text-muted">
                  {r.due < rightNow() ? "due since" : "due"} {day(r.due)}, every{" "}
                  {r.every === 365 ? "year" : `${r.every} days`}
                  {r.done_at ? `; ${r.done_by} did it ${clockTime(r.done_at)}` : ""}
                </span>
              </span>
              {r.where && <Button onClick={() => select(r.where)}>Show me</Button>}
              <Button
                onClick={async () => {
                  await say([newEvent("tended", { of: r.id })]);
                  await queries.invalidateQueries({ queryKey: key });
                }}
              >
                Done
              </Button>
            </p>
            <p className="text-[0.875rem]">{r.says}</p>
          </li>
        ))}
      </ul>
      <a
        className="mt-2 inline-flex min-h-[44px] items-center text-water underline"
        href={exportLink(job.id, "reminders")}
        download
      >
        All of them for a calendar
      </a>
    </Fold>
  );
}

const day = (at: number): string =>
  new Date(at * 1000).toLocaleDateString([], { day: "numeric", month: "short", year: "numeric" });
