import { useState } from "react";
import { useLook } from "../../drawing/viewStore";
import { addPoint, addRun, changePoint } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { isPiped, nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Button, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

/** Points and runs by typed coordinates, for those who measured with a tape, and for those who use no pointer. */
export function AddByTyping() {
  const reference = useReference();
  const { plan, derived } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const place = useLook((s) => s.place);
  const [kind, setKind] = useState("");
  const [at, setAt] = useState({ x: 0, y: 0 });
  const [ends, setEnds] = useState<[string, string]>(["", ""]);
  const joined = plan.points.filter((p) => isPiped(reference, p));
  const names = joined.map((p) => [p.id, nameOf(reference, p)] as const);
  const has = (id: string, other: number) => (joined.some((p) => p.id === id) ? id : (joined.at(other)?.id ?? ""));
  const [a, b] = [has(ends[0], -2), has(ends[1], -1)];
  return (
    <details className="mt-3 border-b border-line pb-2">
      <summary className="min-h-[32px] cursor-pointer font-semibold pointer-coarse:min-h-[44px]">
        Type it instead
      </summary>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <Pick
          label="New point"
          className="min-w-32 flex-[1.3]"
          options={reference.kinds.map((k) => [k.kind, k.title] as const)}
          value={kind || reference.kinds[0]?.kind}
          onPick={setKind}
        />
        <Typed
          label="East"
          quantity="length"
          value={at.x}
          onValue={(x) => setAt((p) => ({ ...p, x }))}
          className="flex-1"
        />
        <Typed
          label="North"
          quantity="length"
          value={at.y}
          onValue={(y) => setAt((p) => ({ ...p, y }))}
          className="flex-1"
        />
        <Button
          onClick={() => {
            edit((p) => {
              const [next, point] = addPoint(p, reference, kind || (reference.kinds[0]?.kind ?? ""), at);
              return changePoint(next, point.id, at);
            });
            place();
          }}
        >
          Add point
        </Button>
      </div>
      {joined.length > 1 && (
        <div className="mt-2 grid grid-cols-[1fr_1fr_auto] items-end gap-2">
          <Pick label="Run from" options={names} value={a} onPick={(v) => setEnds((was) => [v, was[1]])} />
          <Pick label="to" options={names} value={b} onPick={(v) => setEnds((was) => [was[0], v])} />
          <Button disabled={a === b} onClick={() => edit((p) => addRun(p, reference, derived.lines, a, b)[0])}>
            Add run
          </Button>
        </div>
      )}
    </details>
  );
}
