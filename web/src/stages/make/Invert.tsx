import { useState } from "react";
import type { Joint } from "../../api/types";
import { useReadyJob, useSay, useStanding } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { useFormat } from "../../ui/context";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

/** What a joint of a drain is laid to, and the invert that was read there: wanted, read, and how the two differ. */
export function Invert({ joint }: { joint: Joint }) {
  const { derived } = useReadyJob();
  const { laid } = useStanding();
  const { say, fault } = useSay();
  const format = useFormat();
  const [read, setRead] = useState<number | null>(null);
  const [sure, setSure] = useState(false);
  const wanted = derived.inverts[joint.id];
  if (!wanted) return null;
  const drain = laid?.find((d) => d.run === wanted.run);
  const before = drain?.reads.find((r) => r.joint === joint.id);
  const record = async () => {
    if (read === null) return;
    if (!sure && (read < wanted.low || read > wanted.high)) return setSure(true);
    setSure(false);
    if (await say([newEvent("levelled", { joints: [joint.id], level: read })])) setRead(null);
  };
  return (
    <section aria-label="Invert" className="mt-3 border-t border-line pt-2">
      <p className="text-[1.125rem]">
        Invert here <b>{format(wanted.invert, "invert")}</b>, {format(wanted.cover, "depth")} of cover. It falls{" "}
        {wanted.falls}
        {wanted.block && `: ${wanted.block}`}.
      </p>
      {before && (
        <p className={before.off === "as wanted" ? "text-proved" : "font-bold text-dry"}>
          Read {format(before.read, "invert")}: {before.off}, {before.by}, {clockTime(before.at)}.
          {before.since && " A joint of this drain was made since: read it again before it is covered."}
        </p>
      )}
      {drain?.rises.map((r) => (
        <Box key={r} tone="fault">
          As it was read it does not fall: {r}.
        </Box>
      ))}
      {fault && <Said problem={fault} />}
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <Typed
          label="Invert read with staff or level"
          quantity="invert"
          value={read}
          onValue={(v) => {
            setRead(v);
            setSure(false);
          }}
          onClear={() => setRead(null)}
          className="min-w-40 flex-1"
        />
        <Button big onClick={() => void record()}>
          {sure ? "Yes, record it" : "Record it"}
        </Button>
        {/* below the button, so that it stays where it is pressed when this goes */}
        {sure && read !== null && (
          <p role="alert" className="w-full font-bold">
            Wanted here is {format(wanted.invert, "invert")}; you typed {format(read, "invert")}. Was it read so, from
            the right benchmark?
          </p>
        )}
      </div>
    </section>
  );
}
