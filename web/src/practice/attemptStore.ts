import { useCallback, useEffect, useRef, useState } from "react";
import { Refused } from "../api/client";
import { uuid } from "../api/id";
import { kept } from "../api/kept";
import { practiceApi } from "../api/practice";
import type { Attempt, AttemptView, ProblemDocument } from "../api/types";

/** An attempt under way: kept on this device at each press, and on the server as soon as it answers. */

const key = (person: string, exercise: string) => `hydrarch.attempt.${person}.${exercise}`;

export const begun = (exercise: string): Attempt => {
  const now = Date.now() / 1000;
  return {
    id: uuid(),
    exercise,
    begun: now,
    changed: now,
    laid: [],
    lengths: [],
    dressed: [],
    fitted: false,
    indexed: [],
    made: [],
    asked: [],
    answers: [],
    results: [],
    note: "",
    ended: null,
  };
};

function read(person: string, exercise: string): Attempt | null {
  try {
    return JSON.parse(kept.get(key(person, exercise)) ?? "null") as Attempt | null;
  } catch {
    return null; // what cannot be read was written by no page of ours
  }
}

export type Practising = {
  attempt: Attempt | null;
  view: AttemptView | null;
  fault: ProblemDocument | null;
  waiting: boolean;
  change: (edit: (attempt: Attempt) => Attempt) => void;
  begin: () => void;
};

export function usePractising(exercise: string, person: string, underWay: string | null): Practising {
  const [attempt, setAttempt] = useState<Attempt | null>(null);
  const [view, setView] = useState<AttemptView | null>(null);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const [waiting, setWaiting] = useState(false);
  const newest = useRef<Attempt | null>(null);
  const sending = useRef(false);

  const send = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    try {
      for (let sent: Attempt | null = null; newest.current && newest.current !== sent; ) {
        sent = newest.current;
        setWaiting(true);
        const answer = await practiceApi.keep(sent, person);
        if (newest.current !== sent) continue; // more was done meanwhile: that goes next
        setView(answer);
        setWaiting(false);
        setFault(null);
        if (answer.attempt.changed > sent.changed) {
          newest.current = answer.attempt; // another device went on with it
          setAttempt(answer.attempt);
          sent = answer.attempt;
        }
        if (sent.ended !== null) kept.drop(key(person, exercise));
      }
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem.status === 0 ? null : error.problem);
      const now = newest.current;
      if (error.problem.status === 0 && now)
        practiceApi.attempt(now.id, person).then(
          (answer) => newest.current === now && setView((seen) => seen ?? answer), // as this device last had it
          () => {},
        );
    } finally {
      sending.current = false;
    }
  }, [exercise, person]);

  const take = useCallback(
    (next: Attempt) => {
      newest.current = next;
      kept.put(key(person, exercise), JSON.stringify(next));
      setAttempt(next);
      void send();
    },
    [exercise, person, send],
  );

  useEffect(() => {
    if (underWay === null) return;
    const here = read(person, exercise);
    newest.current = here;
    setAttempt(here);
    setView(null);
    if (here) void send();
    else if (underWay)
      practiceApi.attempt(underWay, person).then(
        (answer) => {
          if (newest.current) return;
          newest.current = answer.attempt;
          setAttempt(answer.attempt);
          setView(answer);
        },
        (error: unknown) => {
          if (!(error instanceof Refused)) throw error;
          setFault(error.problem);
        },
      );
  }, [exercise, person, underWay, send]);

  useEffect(() => {
    if (!waiting) return;
    const again = setInterval(() => void send(), 5000);
    return () => clearInterval(again);
  }, [waiting, send]);

  const change = useCallback(
    (edit: (attempt: Attempt) => Attempt) => {
      const now = newest.current;
      if (now && now.ended === null) take({ ...edit(now), changed: Math.max(Date.now() / 1000, now.changed + 1e-3) });
    },
    [take],
  );
  return { attempt, view, fault, waiting, change, begin: useCallback(() => take(begun(exercise)), [exercise, take]) };
}

/** A name in a list, or out of it again. */
export const turned = (list: readonly string[], name: string): string[] =>
  list.includes(name) ? list.filter((n) => n !== name) : [...list, name];
