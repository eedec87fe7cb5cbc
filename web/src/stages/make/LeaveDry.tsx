import { useState } from "react";
import { Button } from "../../ui/parts";
import { Words } from "../../ui/Typed";

/** Why a joint is left dry, as crews leave them: said with one press. */
const REASONS = [
  "it comes out for cleaning",
  "it is turned later, when the line below is in",
  "the next person glues it",
];

/** A joint that is left dry on purpose: why, so that whoever comes next reads it first. */
export function LeaveDry({ onLeave }: { onLeave: (why: string) => void }) {
  const [open, setOpen] = useState(false);
  const [why, setWhy] = useState("");
  if (!open)
    return (
      <Button big onClick={() => setOpen(true)}>
        Leave it dry on purpose
      </Button>
    );
  return (
    <fieldset className="grid gap-2 border-l-4 border-dry pl-3">
      <legend className="font-semibold">Why is it left dry?</legend>
      {REASONS.map((r) => (
        <Button key={r} big onClick={() => onLeave(r)}>
          {r}
        </Button>
      ))}
      <Words label="Or in your words" value={why} live onValue={setWhy} />
      <Button big tone="dry" disabled={!why.trim()} onClick={() => onLeave(why.trim())}>
        Left dry
      </Button>
      <Button big onClick={() => setOpen(false)}>
        Not so
      </Button>
    </fieldset>
  );
}
