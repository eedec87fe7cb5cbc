import { useState } from "react";
import { api, Refused } from "../api/client";
import { useFormat } from "../ui/context";
import { Button, Heading } from "../ui/parts";
import { Typed } from "../ui/Typed";

export type CurvePoint = { flow: number; head: number };

type CurveProps = { title: string; curve: readonly CurvePoint[]; onCurve: (curve: CurvePoint[]) => void };

/** A pump's curve as points, from shut-off to its largest flow. */
export function Curve({ title, curve, onCurve }: CurveProps) {
  const set = (i: number, change: Partial<CurvePoint>) =>
    onCurve(curve.map((c, n) => (n === i ? { ...c, ...change } : c)));
  const last = curve.at(-1) ?? { flow: 0, head: 0 };
  return (
    <section aria-label={title}>
      <Heading>{title}</Heading>
      {curve.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: points keep their order
        <div key={i} className="mb-1.5 grid grid-cols-[1fr_1fr_auto] items-end gap-x-3">
          <Typed
            label={i ? "Flow" : "Flow at shut-off"}
            quantity="flow"
            value={c.flow}
            onValue={(flow) => set(i, { flow })}
          />
          <Typed label="Head" quantity="head" value={c.head} onValue={(head) => set(i, { head })} />
          <Button
            aria-label={`Take out point ${i + 1}`}
            disabled={curve.length <= 3}
            onClick={() => onCurve(curve.filter((_, n) => n !== i))}
          >
            ×
          </Button>
        </div>
      ))}
      <Pasted onCurve={onCurve} />
      <Button onClick={() => onCurve([...curve, { flow: last.flow * 1.2 + 1e-5, head: last.head * 0.7 }])}>
        Add a point
      </Button>
    </section>
  );
}

/** A curve as text: a line for each point, flow and head with a space or a comma between, as a maker's CSV has it. */
function Pasted({ onCurve }: { onCurve: (curve: CurvePoint[]) => void }) {
  const format = useFormat();
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [fault, setFault] = useState("");
  const [read, setRead] = useState("");
  const take = async () => {
    try {
      const { points, says } = await api.readCurve(text, format.system);
      onCurve(points);
      setOpen(false);
      setFault("");
      setRead(says);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem.detail);
    }
  };
  if (!open)
    return (
      <>
        {read && <p role="status">{`Read: ${read}.`}</p>}
        <Button onClick={() => setOpen(true)}>Paste a curve</Button>
      </>
    );
  return (
    <div className="my-1">
      <label className="text-[0.8125rem] text-muted">
        Flow and head, a point a line ({format.unit("flow")}, {format.unit("head")} unless you write the unit)
        <textarea
          rows={5}
          value={text}
          className="block w-full border border-edge bg-panel p-1 text-[0.9375rem] text-ink"
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      {fault && (
        <p role="alert" className="text-fault">
          {fault}
        </p>
      )}
      <Button onClick={() => void take()}>Use this curve</Button>
    </div>
  );
}
