import { useState } from "react";
import type { Gate, Section } from "../../api/types";
import { useReadyJob, useSay } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { Said } from "../../ui/Messages";
import { Button } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";
import { ShutGate } from "./ShutGate";

const local = (seconds: number) => {
  const d = new Date(seconds * 1000);
  return new Date(d.getTime() - d.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
};
const seconds = (text: string) => new Date(text).getTime() / 1000;

/** A pressure test as it was: pressure, start, end, result. A shut gate asks for a reason and keeps it. */
export function TestForm({ section, gate }: { section: Section; gate: Gate }) {
  const { say, fault } = useSay();
  const now = Date.now() / 1000;
  const [pressure, setPressure] = useState(section.test);
  const [start, setStart] = useState(local(now - 1800));
  const [end, setEnd] = useState(local(now));
  const [reason, setReason] = useState("");
  const [note, setNote] = useState("");
  const send = async (passed: boolean) => {
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
        <Typed label="Pressure" quantity="pressure" value={pressure} onValue={setPressure} />
        <Words label="Note" value={note} onValue={setNote} />
        <When label="Start" value={start} onValue={setStart} />
        <When label="End" value={end} onValue={setEnd} />
      </div>
      {(!gate.open || fault?.type === "/problems/gate") && (
        <ShutGate says={`The gate is shut: ${gate.why}`} to="go on" reason={reason} onReason={setReason} />
      )}
      {fault && <Said problem={fault} />}
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Button tone="main" onClick={() => void send(true)}>
          It held
        </Button>
        <Button tone="dry" onClick={() => void send(false)}>
          It failed
        </Button>
      </div>
    </details>
  );
}

function When({ label, value, onValue }: { label: string; value: string; onValue: (v: string) => void }) {
  return (
    <label className="flex flex-col text-[13px] text-muted">
      {label}
      <input
        type="datetime-local"
        value={value}
        className="min-h-[36px] rounded-[4px] border border-line bg-panel px-2 text-[15px] text-ink pointer-coarse:min-h-[44px]"
        onChange={(e) => onValue(e.target.value)}
      />
    </label>
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
