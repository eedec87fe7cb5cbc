import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, useSyncExternalStore } from "react";
import { answered } from "../api/answered";
import { api, Refused } from "../api/client";
import { kept } from "../api/kept";
import type { Member } from "../api/types";
import { Letter } from "../ui/Letter";
import { Words } from "../ui/Typed";

const key = "hydrarch.person";
const NOBODY = "crew";
export const person = (): string => kept.get(key) || NOBODY;

const listeners = new Set<() => void>();
const listen = (told: () => void) => {
  listeners.add(told);
  return () => listeners.delete(told);
};
/** From now on it is this name that stands beside what is recorded here. */
export const workAs = (name: string): void => {
  kept.put(key, name.trim() || NOBODY);
  for (const told of listeners) told();
};

/** Who works on this device. */
export const usePerson = (): string => useSyncExternalStore(listen, person);

export const useCrew = () => useQuery({ queryKey: ["crew"], queryFn: api.crew, staleTime: 60_000 });

/** Who somebody is among the crew; one who is not of it has the letter of the name. */
export const memberOf = (members: readonly Member[] | undefined, name: string): Member =>
  members?.find((m) => m.name.toLowerCase() === name.toLowerCase()) ?? {
    name,
    letter: name.slice(0, 1).toUpperCase(),
    colour: 0,
  };

/** Who is at work on this device; it stands beside everything they record. Whoever was here before is a press away. */
export function Person() {
  const name = usePerson();
  const crew = useCrew();
  const queries = useQueryClient();
  const [fault, setFault] = useState("");
  const be = async (told: string) => {
    workAs(told);
    setFault("");
    if (!told.trim() || told.trim() === NOBODY) return;
    try {
      await answered(queries, "crew", await api.addToCrew(told.trim()));
    } catch (error) {
      // with no signal the name is kept here, and stands beside what is said; it joins the crew when it is next chosen
      if (!(error instanceof Refused)) throw error;
      if (error.problem.status >= 400 && error.problem.status < 500) setFault(error.problem.detail);
    }
  };
  const others = (crew.data?.members ?? []).filter((m) => m.name !== name);
  return (
    <>
      <Words label="Who is working on this device" className="mt-3" value={name} onValue={(v) => void be(v)} />
      {fault && <p className="text-fault">{fault}</p>}
      {others.length > 0 && (
        <div className="mt-1 flex flex-wrap gap-1" role="group" aria-label="Or one of the crew">
          {others.map((m) => (
            <button
              key={m.name}
              type="button"
              className="inline-flex min-h-[44px] items-center gap-1.5 rounded-[4px] border border-edge bg-panel px-2.5"
              onClick={() => void be(m.name)}
            >
              <Letter member={m} />
              {m.name}
            </button>
          ))}
        </div>
      )}
    </>
  );
}
