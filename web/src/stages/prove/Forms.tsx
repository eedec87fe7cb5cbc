import { useState } from "react";
import { rightNow } from "../../api/clock";
import type { Gate, Section } from "../../api/types";
import { useReadyJob, useSay } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { useFormat } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Button } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";
import { ShutGate } from "./ShutGate";

const local = (seconds: number) => {
  const d = new Date(seconds * 1000);
  return new Date(d.getTime() - d.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
};
const seconds = (text: string) => new Date(text).getTime() / 1000;

/**
 * A pressure test as it was: pressure, start, end, result. It begins empty, for only what was read and when is a record. A shut gate
 * asks for a reason and keeps it.
 */
export function TestForm({ section, gate }: { section: Section; gate: Gate }) {
  const { say, fault } = useSay();
  const format = useFormat();
  const [pressure, setPressure] = useState<number | null>(null);
  const [start, setStart] = useState("");
  const [end, setEnd] = useState("");
  const [reason, setReason] = useState("");
  const [note, setNote] = useState("");
  const whole = pressure !== null && start !== "" && end !== "" && seconds(end) > seconds(start);
  const send = async (passed: boolean) => {
    if (!whole) return;
    const event = newEvent("tested", {
      at: seconds(start),
      ended: seconds(end),
      section: section.id,
      pressure,
      passed,
      override: reason,
      note,
    });
    await say([event]);
  };
  return (
    <details className="mt-2">
      <summary className="min-h-[36px] cursor-pointer font-semibold text-water pointer-coarse:min-h-[44px]">
        Enter a test
      </summary>
      <div className="mt-1 grid grid-cols-2 gap-2">
        <Typed
          label="Pressure read"
          quantity="pressure"
          value={pressure}
          onValue={setPressure}
          onClear={() => setPressure(null)}
          hint={section.test > 0 ? `test at ${format(section.test, "pressure")}` : ""}
        />
        <Words label="Note" value={note} onValue={setNote} />
        <When label="Start" value={start} onValue={setStart} />
        <When label="End" value={end} onValue={setEnd} />
      </div>
      {!whole && (
        <p className="mt-1 text-[0.875rem] text-muted">
          Enter what the gauge showed, and when the test began and ended.
        </p>
      )}
      {(!gate.open || fault?.type === "/problems/gate") && (
        <ShutGate
          says={gate.open ? (fault?.detail ?? "").replace(/\.$/, "") : `The gate is shut: ${gate.why}`}
          to="go on"
          reason={reason}
          onReason={setReason}
        />
      )}
      {fault && fault.type !== "/problems/gate" && <Said problem={fault} />}
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Button tone="main" disabled={!whole} onClick={() => void send(true)}>
          It held
        </Button>
        <Button tone="dry" disabled={!whole} onClick={() => void send(false)}>
          It failed
        </Button>
      </div>
    </details>
  );
}

function When({ label, value, onValue }: { label: string; value: string; onValue: (v: string) => void }) {
  return (
    <div className="flex flex-col">
      <label className="flex flex-col text-[0.8125rem] text-muted">
        {label}
        <input
          type="datetime-local"
          value={value}
          className="min-h-[36px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
          onChange={(e) => onValue(e.target.value)}
        />
      </label>
      <Button tone="quiet" aria-label={`${label}: now`} onClick={() => onValue(local(rightNow()))}>
        Now
      </Button>
    </div>
  );
}

/** Burying: open once proved; before that only with a reason, which is kept. */
export function BuryForm({ section, gate }: { section: Section; gate: Gate }) {
  const { say, fault } = useSay();
  const { plan } = useReadyJob();
  const [reason, setReason] = useState("");
  const dug = plan.runs.some((r) => r.situation === "buried" && section.runs.includes(r.id));
  const send = async () => {
    await say([newEvent("buried", { section: section.id, override: reason })]);
  };
  return (
    <details className="mt-1">
      <summary className="min-h-[36px] cursor-pointer font-semibold text-water pointer-coarse:min-h-[44px]">
        {dug ? "Bury it" : "Close it in"}
      </summary>
      {!gate.open && (
        <ShutGate
          says={`Do not ${dug ? "bury it" : "close it in"} yet: ${gate.why}`}
          to={dug ? "bury" : "close it in"}
          reason={reason}
          onReason={setReason}
        />
      )}
      {fault && <Said problem={fault} />}
      <Button tone={gate.open ? "main" : "dry"} className="mt-1" onClick={() => void send()}>
        {dug ? "Buried" : "Closed in"}
      </Button>
    </details>
  );
}
