import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../api/client";
import { trusted } from "../api/offline";
import type { ProblemDocument } from "../api/types";
import { memberOf, useCrew } from "../job/Person";
import { clockTime } from "../ui/format";
import { Letter } from "../ui/Letter";
import { Said } from "../ui/Messages";
import { Button, Heading } from "../ui/parts";

/** What was done about access and jobs, the newest first. */
function Audit() {
  const acts = useQuery({ queryKey: ["audit"], queryFn: api.audit });
  if (!acts.data?.length) return null;
  return (
    <details className="mt-3">
      <summary className="inline-flex min-h-[44px] cursor-pointer items-center">Activity ({acts.data.length})</summary>
      <a href="/api/audit/export" download className="inline-flex min-h-[44px] items-center text-water underline">
        Save as a table (CSV)
      </a>
      <ul className="text-[0.875rem]">
        {acts.data.slice(0, 100).map((a) => (
          <li key={`${a.at}${a.what}${a.about}`} className="border-b border-line py-1">
            {clockTime(a.at)} · <b>{a.what}</b>
            {a.who && `, ${a.who}`}: {a.about}
          </li>
        ))}
      </ul>
    </details>
  );
}

/** The devices that were let in, where others can come in at all: a lost phone is put out here. */
export function Devices() {
  const crew = useCrew();
  const shared = crew.data?.shared ?? false;
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: api.sessions, enabled: shared });
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  if (!shared) return null;
  const end = async (id: string) => {
    try {
      await api.endSession(id);
      setFault(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
    void sessions.refetch();
  };
  return (
    <section className="mt-6" aria-label="Devices that were let in">
      <Heading note="each for a fortnight">Devices that were let in</Heading>
      {fault && <Said problem={fault} />}
      {crew.data?.trust ? (
        <p className="text-[0.875rem] text-muted">
          <a href="/trust" className="inline-flex min-h-[44px] items-center text-water underline">
            How to make a phone trust this server
          </a>{" "}
          once, so that it opens with no signal.
        </p>
      ) : (
        !trusted() && (
          <p className="text-[0.875rem] text-muted">
            Shared by plain HTTP: with no signal a page that is open stays as it is and loses nothing, but cannot be
            opened anew.
          </p>
        )
      )}
      <ul>
        {sessions.data?.map((s) => (
          <li key={s.id} className="flex min-h-[44px] items-center gap-2 border-b border-line">
            <Letter member={memberOf(crew.data?.members, s.member || "?")} />
            <span className="grow">
              {s.member || "Nobody said who"}, {s.device}
              {s.mine && " (this one)"}
              <span className="block text-[0.8125rem] text-muted">
                let in {clockTime(s.opened)}, last seen {clockTime(s.seen)}
              </span>
            </span>
            {(s.mine || crew.data?.owner) && (
              <Button onClick={() => void end(s.id)}>{s.mine ? "Leave" : "End session"}</Button>
            )}
          </li>
        ))}
      </ul>
      <Audit />
    </section>
  );
}
