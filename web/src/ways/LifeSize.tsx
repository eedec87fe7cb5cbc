import { useState } from "react";
import { kept } from "../api/kept";
import { Check } from "../ui/parts";

const key = "hydrarch.pixelsPerMm";
const card = { width: 85.6, height: 53.98 };

/** Life size: hold a bank card (ISO/IEC 7810 ID-1, 85.60 mm wide) to the rectangle and set its width once. */
export function useLifeSize(): [number | null, React.ReactNode] {
  const [scale, setScale] = useState(() => Number(kept.get(key)) || 96 / 25.4);
  const [on, setOn] = useState(false);
  const set = (v: number) => {
    setScale(v);
    kept.put(key, String(v));
  };
  const control = (
    <div>
      <Check label="Life size" checked={on} onChange={(e) => setOn(e.target.checked)} />
      {on && (
        <div className="my-2">
          <p className="text-[0.8125rem] text-muted">
            Hold a bank card to the screen and pull until the rectangle is as wide.
          </p>
          <div
            aria-hidden="true"
            className="my-1 max-w-full rounded-[8px] border-2 border-water bg-water-soft"
            style={{ width: card.width * scale, height: Math.min(90, card.height * scale) }}
          />
          <input
            type="range"
            aria-label="Width of the card on this screen"
            className="h-11 w-full max-w-md accent-water"
            min={2}
            max={12}
            step={0.02}
            value={scale}
            onChange={(e) => set(Number(e.target.value))}
          />
        </div>
      )}
    </div>
  );
  return [on ? scale : null, control];
}
