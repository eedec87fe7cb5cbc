import { Button, Heading } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

type CurvePoint = { flow: number; head: number };

/** A pump's curve as points, from shut-off to its largest flow. */
export function PumpCurve({
  curve,
  onCurve,
}: {
  curve: readonly CurvePoint[];
  onCurve: (curve: CurvePoint[]) => void;
}) {
  const set = (i: number, change: Partial<CurvePoint>) =>
    onCurve(curve.map((c, n) => (n === i ? { ...c, ...change } : c)));
  const last = curve.at(-1) ?? { flow: 0, head: 0 };
  return (
    <section aria-label="Pump curve">
      <Heading>Pump curve</Heading>
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
      <Button onClick={() => onCurve([...curve, { flow: last.flow * 1.2 + 1e-5, head: last.head * 0.7 }])}>
        Add a point
      </Button>
    </section>
  );
}
