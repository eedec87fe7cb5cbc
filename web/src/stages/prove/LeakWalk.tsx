import { useState } from "react";
import { useLocation } from "wouter";
import { api, Refused } from "../../api/client";
import type { ProblemDocument, Standing, ZoneView } from "../../api/types";
import { useReadyJob, useSay, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { newEvent } from "../../job/newEvent";
import { person } from "../../job/Person";
import { useFormat } from "../../ui/context";
import { clockTime, wait } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Button, Heading, Pick } from "../../ui/parts";
import { useNow } from "../../ui/useNow";
import { ShutGate } from "./ShutGate";

const minutes = [5, 10, 20, 60];

/** The leak walk: the controller runs a zone, and each joint its water passes is looked at in the order one comes to it. */
export function LeakWalk() {
  const { job } = useReadyJob();
  const { zones } = useStanding();
  const stand = useJob((s) => s.stand);
  const [picked, setPicked] = useState("");
  const [length, setLength] = useState(10);
  const [reason, setReason] = useState("");
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const running = zones.find((z) => z.until);
  const now = useNow(Boolean(running));
  const zone = zones.find((z) => z.id === picked) ?? running ?? zones[0];
  if (!zone?.stops.length) return null;
  const on = zone.until && zone.until > now;
  const ask = async (what: Promise<Standing>) => {
    try {
      stand(await what);
      setFault(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  const run = () => ask(api.runZone(job.id, zone.id, { by: person(), seconds: length * 60, override: reason }));
  return (
    <section aria-label="Leak walk" className="mt-4 border-t border-line pt-3">
      <Heading note="simulated controller">Leak walk</Heading>
      <p>Run a zone, walk it from the source, look and feel under every joint.</p>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Pick label="Zone" options={zones.map((z) => [z.id, z.name] as const)} value={zone.id} onPick={setPicked} />
        <Pick
          label="Runs for"
          options={minutes.map((m) => [String(m), `${m} min`] as const)}
          value={String(length)}
          onPick={(v) => setLength(Number(v))}
        />
      </div>
      {!on && !zone.gate.open && (
        <ShutGate says={`Do not run it yet: ${zone.gate.why}`} to="run it" reason={reason} onReason={setReason} />
      )}
      {fault && <Said problem={fault} />}
      {on ? (
        <div className="mt-2 flex items-center gap-3" role="status">
          <Button big tone="dry" className="whitespace-nowrap" onClick={() => void ask(api.stopZone(job.id))}>
            Shut it
          </Button>
          <p>
            <b>{zone.name} runs</b>, shuts in {wait((zone.until ?? now) - now)}
          </p>
        </div>
      ) : (
        <Button big tone={zone.gate.open ? "main" : "dry"} className="mt-2" onClick={() => void run()}>
          Run {zone.name}
        </Button>
      )}
      {on && (
        <Walk
          zone={zone}
          override={zone.gate.open ? "" : reason || "run all the same"}
          onShut={() => ask(api.stopZone(job.id))}
        />
      )}
    </section>
  );
}

function Walk({ zone, override, onShut }: { zone: ZoneView; override: string; onShut: () => Promise<void> }) {
  const { job } = useReadyJob();
  const { say, fault } = useSay();
  const select = useJob((s) => s.select);
  const [, go] = useLocation();
  const format = useFormat();
  const since = zone.since ?? 0;
  const left = zone.stops.filter((s) => !s.looked || s.looked < since);
  const dry = (joint: string) => say([newEvent("looked", { joints: [joint], override })]);
  const leaks = async (joint: string) => {
    await onShut();
    await say([newEvent("leaked", { joints: [joint], override })]);
    select(joint);
    go(`/job/${job.id}/make`);
  };
  return (
    <>
      <p className="mt-2 text-muted">
        {left.length ? `${left.length} of ${zone.stops.length} still to look at` : "All looked at, all dry"}
      </p>
      {fault && <Said problem={fault} />}
      <ol>
        {zone.stops.map((s) => {
          const seen = s.looked && s.looked >= since;
          return (
            <li key={s.joint} className="flex flex-wrap items-center gap-2 border-b border-line py-1">
              <span className="min-w-0 grow basis-full sm:basis-48">
                <span className="block font-semibold">
                  {s.place}
                  {s.along > 0.01 && <span className="font-normal text-muted">, {format(s.along, "length")} on</span>}
                </span>
                <span className="block text-[0.8125rem] text-muted">
                  {s.what}. {s.says}
                </span>
              </span>
              {seen ? (
                <span className="text-proved">dry, {clockTime(s.looked ?? 0)}</span>
              ) : (
                <span className="flex grow justify-end gap-2">
                  <Button
                    className="grow sm:grow-0"
                    aria-label={`Dry: ${s.place}, ${s.what}`}
                    onClick={() => void dry(s.joint)}
                  >
                    Dry
                  </Button>
                  <Button tone="dry" aria-label={`Leaks: ${s.place}, ${s.what}`} onClick={() => void leaks(s.joint)}>
                    It leaks
                  </Button>
                </span>
              )}
            </li>
          );
        })}
      </ol>
    </>
  );
}
