import { useState } from "react";
import type { EventIn, Gate, ProblemDocument, Section } from "../../api/types";
import { useJob, uuid } from "../../app/jobStore";
import { Box, Button } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";
import { person } from "../make/Person";

const local = (seconds: number) => {
  const d = new Date(seconds * 1000);
  return new Date(d.getTime() - d.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
};
const seconds = (text: string) => new Date(text).getTime() / 1000;

/** A pressure test as it was: pressure, start, end, result. A shut gate asks for a reason and keeps it. */
export function TestForm({ section, gate }: { section: Section; gate: Gate }) {
  const say = useJob((s) => s.say);
  const now = Date.now() / 1000;
  const [pressure, setPressure] = useState(section.test);
  const [start, setStart] = useState(local(now - 1800));
  const [end, setEnd] = useState(local(now));
  const [reason, setReason] = useState("");
  const [note, setNote] = useState("");
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const send = async (passed: boolean) => {
    const event = {
      id: uuid(),
      kind: "tested",
      at: seconds(start),
      ended: seconds(end),
      by: person(),
      joints: [],
      section: section.id,
      pressure,
      passed,
      override: reason,
      note,
    } as EventIn;
    setFault(await say([event]));
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
        <Box tone="dry">
          <p>The gate is shut: {gate.why}.</p>
          <Words label="Reason to go on all the same (kept)" value={reason} onValue={setReason} />
        </Box>
      )}
      {fault && (
        <Box tone="fault" role="alert">
          <b>{fault.detail}</b> {fault.mend}
        </Box>
      )}
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
  const say = useJob((s) => s.say);
  const [reason, setReason] = useState("");
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const send = async () => {
    const event = {
      id: uuid(),
      kind: "buried",
      at: Date.now() / 1000,
      by: person(),
      joints: [],
      section: section.id,
      override: reason,
      note: "",
    } as EventIn;
    setFault(await say([event]));
  };
  return (
    <details className="mt-1">
      <summary className="min-h-[36px] cursor-pointer font-semibold text-water pointer-coarse:min-h-[44px]">
        Bury it
      </summary>
      {!gate.open && (
        <Box tone="dry">
          <p>Do not bury it yet: {gate.why}.</p>
          <Words label="Reason to bury all the same (kept)" value={reason} onValue={setReason} />
        </Box>
      )}
      {fault && (
        <Box tone="fault" role="alert">
          <b>{fault.detail}</b> {fault.mend}
        </Box>
      )}
      <Button tone={gate.open ? "main" : "dry"} className="mt-1" onClick={() => void send()}>
        Buried
      </Button>
    </details>
  );
}
