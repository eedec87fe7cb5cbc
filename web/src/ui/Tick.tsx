import { Button } from "./parts";

type TickProps = { checked: boolean; label: string; onTick: () => void };

/** A tick as large as a thumb. */
export function Tick({ checked, label, onTick }: TickProps) {
  return (
    <Button
      aria-pressed={checked}
      aria-label={label}
      className={`size-[44px] shrink-0 text-2xl font-bold ${checked ? "border-proved bg-proved text-paper" : "border-2 border-ink!"}`}
      onClick={onTick}
    >
      {checked ? "✓" : ""}
    </Button>
  );
}
