import { useState } from "react";
import { Said } from "../ui/Messages";
import { Button, Check } from "../ui/parts";
import { Words } from "../ui/Typed";
import { useSay } from "./hooks";
import { newEvent } from "./newEvent";

type MendedProps = { of: string; opened?: boolean; onDone?: () => void };

/** What was done about a leak or a fault, said into the record: where pipe was opened for it, its tests before count no more. */
export function Mended({ of, opened = true, onDone }: MendedProps) {
  const { say, fault } = useSay();
  const [note, setNote] = useState("");
  const [open, setOpen] = useState(opened);
  const done = async () => {
    if (await say([newEvent("mended", { of, note, count: open ? 1 : 0 })])) onDone?.();
  };
  return (
    <details className="inline-block">
      <summary className="inline-flex cursor-pointer items-center text-water underline pointer-coarse:min-h-[44px]">
        It is mended
      </summary>
      <Words label="What was done (kept)" value={note} live onValue={setNote} />
      <Check
        label="Pipe or a joint was opened or put in anew, and may have to set"
        checked={open}
        onChange={(e) => setOpen(e.target.checked)}
      />
      {fault && <Said problem={fault} />}
      <Button tone="main" className="mt-1" disabled={!note.trim()} onClick={() => void done()}>
        Write it into the record
      </Button>
    </details>
  );
}
