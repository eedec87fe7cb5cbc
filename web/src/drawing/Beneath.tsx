import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { nameOf } from "../job/kinds";
import { useFormat, useReference } from "../ui/context";
import { Button } from "../ui/parts";
import type { Spot } from "./geometry";
import { levelOf } from "./projection";

export type Heap = { at: Spot; ids: readonly string[] };

const [WIDE, HIGH] = [240, 256]; // px, as its classes have it

/** What lies beneath a press: everything that is there, the highest first, to choose from. */
export function Beneath({
  things,
  room,
  onClose,
}: {
  things: Heap;
  room: { w: number; h: number };
  onClose: () => void;
}) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const select = useJob((s) => s.select);
  const points = things.ids.flatMap((id) => plan.points.find((p) => p.id === id) ?? []);
  points.sort((a, b) => levelOf(b) - levelOf(a));
  return (
    <section
      aria-label="What lies here"
      className="absolute z-10 max-h-64 w-60 overflow-y-auto border border-ink bg-panel p-1 shadow-lg"
      style={{
        left: Math.max(4, Math.min(things.at.x + 14, room.w - WIDE - 4)),
        top: Math.max(4, Math.min(things.at.y - 20, room.h - HIGH - 4)),
      }}
    >
      <ul>
        {points.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              className="flex min-h-[36px] w-full items-center justify-between gap-2 px-2 text-left hover:bg-water-soft pointer-coarse:min-h-[44px]"
              onClick={() => {
                select(p.id);
                onClose();
              }}
            >
              <span>{nameOf(reference, p)}</span>
              <span className="text-[0.8125rem] text-muted">{format(levelOf(p), "level")}</span>
            </button>
          </li>
        ))}
      </ul>
      <Button tone="quiet" onClick={onClose}>
        Close
      </Button>
    </section>
  );
}
