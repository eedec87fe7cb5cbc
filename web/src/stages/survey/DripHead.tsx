import { useState } from "react";
import { api } from "../../api/client";
import { useLook } from "../../drawing/viewStore";
import { useAsked } from "../../job/asked";
import { useJob } from "../../job/jobStore";
import { Button, Check } from "../../ui/parts";

/** The head of a drip line laid out at one press, behind what the water comes from. */
export function DripHead({ at }: { at: string }) {
  const { says, ask } = useAsked();
  const select = useJob((s) => s.select);
  const [timer, setTimer] = useState(false);
  const lay = async () => {
    const done = await ask((before) => api.group("drip-head", { chosen: [at], timer }, before));
    const last = done?.chosen.at(-1);
    if (last) select(last);
    useLook.getState().place();
  };
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-3">
        <Button onClick={() => void lay()}>Lay out a drip line's head here</Button>
        <Check label="with a timer" checked={timer} onChange={(e) => setTimer(e.target.checked)} />
      </div>
      {says && (
        <p role="status" className="text-[0.8125rem]">
          {says}
        </p>
      )}
    </div>
  );
}
