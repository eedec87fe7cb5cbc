import { Dialog } from "radix-ui";
import { useState } from "react";
import type { Entry } from "../api/outbox";
import { outbox } from "../api/wired";
import { useBox } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { DialogFrame } from "../ui/DialogFrame";
import { clockTime } from "../ui/format";
import { Said } from "../ui/Messages";
import { Button, Pick } from "../ui/parts";

export const words: Record<Entry["event"]["kind"], string> = {
  dry_fitted: "Dry-fitted",
  left_dry: "Left dry on purpose",
  made: "Made",
  undone: "Taken apart",
  looked: "Looked at, dry",
  levelled: "Invert read",
  tested: "Tested",
  handed_over: "Handed over",
  taken_over: "Taken over",
  tended: "Done again",
  got: "Put in the basket",
  laid_out: "Laid out",
  stepped: "Changeover step",
  observed: "Read to find a fault",
  leaked: "Seen leaking",
  mended: "Mended",
  buried: "Buried",
  withdrawn: "Record withdrawn",
};

/** What was said and the server would not take: in sight wherever one is, until a person sees to it. */
export function RefusedEvents() {
  const { refused } = useBox();
  const [open, setOpen] = useState(false);
  // the joint picked for each stays picked while answers come and the list is drawn anew
  const [others, setOthers] = useState<Record<string, string>>({});
  if (!refused.length) return null;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <div className="flex flex-wrap items-center gap-3 bg-dry-soft px-3 py-1 text-dry lg:px-5" role="alert">
        <b>
          {refused.length === 1 ? "One thing you said was" : `${refused.length} things you said were`} not accepted by
          the server.
        </b>
        <Dialog.Trigger asChild>
          <Button>See to {refused.length === 1 ? "it" : "them"}</Button>
        </Dialog.Trigger>
      </div>
      <DialogFrame title="Not accepted" close="Close">
        {refused.map((e) => (
          <One
            key={e.event.id}
            entry={e}
            other={others[e.event.id] ?? ""}
            onOther={(joint) => setOthers((o) => ({ ...o, [e.event.id]: joint }))}
          />
        ))}
      </DialogFrame>
    </Dialog.Root>
  );
}

function One({ entry, other, onOther }: { entry: Entry; other: string; onOther: (joint: string) => void }) {
  const { event, job, refused } = entry;
  const open = useJob((s) => s.id);
  const joints = useJob((s) => s.derived.joints);
  const known = new Map(joints.map((j) => [j.id, `${j.place}${j.towards && `, towards ${j.towards}`}: ${j.method}`]));
  const about = event.section ?? event.joints.map((j) => known.get(j) ?? j).join("; ");
  return (
    <section className="border-b border-line py-2">
      <p>
        <b>{words[event.kind]}</b>, {about}, {event.by}, {clockTime(event.at)}
        {open !== job && ` (job ${job})`}
      </p>
      {refused && <Said problem={refused} />}
      <div className="flex flex-wrap items-end gap-2">
        <Button onClick={() => void outbox.again(event.id)}>Send it again</Button>
        <Button tone="dry" onClick={() => outbox.discard(event.id)}>
          Discard it
        </Button>
        {open === job && event.joints.length === 1 && joints.length > 0 && (
          <>
            <Pick
              label="It was another joint"
              className="w-56"
              options={[["", "choose"], ...joints.map((j) => [j.id, known.get(j.id) ?? j.id] as const)]}
              value={other}
              onPick={onOther}
            />
            <Button disabled={!other} onClick={() => void outbox.again(event.id, [other])}>
              Send it about that one
            </Button>
          </>
        )}
      </div>
    </section>
  );
}
