import { api } from "../../api/client";
import { useAsked } from "../../job/asked";
import { changeWhat } from "../../job/edits";
import { useJob } from "../../job/jobStore";
import { Button } from "../../ui/parts";

const ARCS = [90, 180, 270, 360] as const;

/** The arc of a head turned and widened by presses, as it is seen on the drawing. */
export function ArcTurn({ head, arc }: { head: string; arc: number }) {
  const { says, ask } = useAsked();
  const edit = useJob((s) => s.edit);
  const turn = (degrees: number) => void ask((before) => api.group("turn", { chosen: [head], degrees }, before));
  const part = arc < 2 * Math.PI - 1e-6;
  return (
    <fieldset className="mt-2 flex flex-wrap gap-2">
      <legend className="text-[0.8125rem] text-muted">Its arc</legend>
      {ARCS.map((a) => (
        <Button
          key={a}
          aria-pressed={Math.abs((a * Math.PI) / 180 - arc) < 1e-6}
          onClick={() => edit((p) => changeWhat(p, head, { arc: (a * Math.PI) / 180 }))}
        >
          {a}°
        </Button>
      ))}
      <Button disabled={!part} onClick={() => turn(15)}>
        Turn left
      </Button>
      <Button disabled={!part} onClick={() => turn(-15)}>
        Turn right
      </Button>
      {says && (
        <p role="status" className="w-full text-[0.875rem]">
          {says}
        </p>
      )}
    </fieldset>
  );
}
