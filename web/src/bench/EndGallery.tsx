import { useMemo, useState } from "react";
import type { EndView } from "../api/types";
import { Pick } from "../ui/parts";
import { EndPicture, roomFor } from "../ways/EndPicture";

type GalleryProps = { ends: readonly EndView[]; size: string; onPick: (end: string) => void };

/** Pick an end by what it looks like: every end of one size, drawn to one scale from outside. */
export function EndGallery({ ends, size: first, onPick }: GalleryProps) {
  const sizes = useMemo(() => [...new Set(ends.map((e) => e.size))], [ends]);
  const [size, setSize] = useState(sizes.includes(first) ? first : (sizes[0] ?? ""));
  const mine = ends.filter((e) => e.size === size);
  const rooms = mine.map(roomFor);
  const wide = Math.max(...rooms.map((r) => r.wide), 1);
  const high = Math.max(...rooms.map((r) => r.high), 1);
  return (
    <div className="mt-2 border border-line bg-panel p-2">
      <Pick
        label="Size of end"
        options={sizes.map((s) => [s, s.replace("..", " to ")] as const)}
        value={size}
        onPick={setSize}
      />
      <ul className="mt-2 grid grid-cols-2 gap-1 sm:grid-cols-3">
        {mine.map((end) => (
          <li key={end.name}>
            <button
              type="button"
              className="flex h-full w-full flex-col items-center border border-line p-1 hover:border-water pointer-coarse:min-h-[44px]"
              onClick={() => onPick(end.name)}
            >
              <EndPicture end={end} wide={wide} high={high} />
              <span className="text-[0.78125rem] leading-tight">{end.words}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
