import { useState } from "react";
import { useSay } from "../job/hooks";
import { newEvent } from "../job/newEvent";
import { Said } from "../ui/Messages";
import { Button } from "../ui/parts";
import { Words } from "../ui/Typed";

/** Withdraw a record that was entered by mistake: it stays readable, and counts for nothing from now on. It takes a reason. */
export function Withdraw({ event, what, onDone }: { event: string; what: string; onDone?: () => void }) {
  const { say, fault } = useSay();
  const [reason, setReason] = useState("");
  return (
    <details className="inline-block">
      <summary className="inline-flex cursor-pointer items-center text-water underline pointer-coarse:min-h-[44px]">
        Withdraw this record
      </summary>
      <Words label={`Why ${what} is wrong (kept)`} value={reason} live onValue={setReason} />
      {fault && <Said problem={fault} />}
      <Button
        tone="dry"
        className="mt-1"
        disabled={!reason.trim()}
        onClick={() => void say([newEvent("withdrawn", { of: event, note: reason })]).then(() => onDone?.())}
      >
        Withdraw
      </Button>
    </details>
  );
}
