import { useMemo } from "react";
import type { Coverage } from "../api/types";
import { toScreen, type View } from "./geometry";

/** Where the water lands, painted under the line as it is seen from above: the more, the bluer. */
export function Watered({ found, view }: { found: Coverage; view: View }) {
  const { painted, mean } = found;
  const picture = useMemo(() => paint(painted.rates as number[][], mean), [painted, mean]);
  const high = painted.rates.length * painted.cell;
  const wide = (painted.rates[0]?.length ?? 0) * painted.cell;
  const corner = toScreen(view, { x: painted.x, y: painted.y + high });
  return (
    <image
      href={picture}
      x={corner.x}
      y={corner.y}
      width={wide * view.scale}
      height={high * view.scale}
      preserveAspectRatio="none"
      pointerEvents="none"
      data-watered={found.scenario}
    />
  );
}

function paint(rates: readonly (readonly number[])[], mean: number | null | undefined): string {
  const [rows, columns] = [rates.length, rates[0]?.length ?? 0];
  const canvas = document.createElement("canvas");
  canvas.width = columns;
  canvas.height = rows;
  const brush = canvas.getContext("2d");
  if (!brush || !rows || !columns) return "";
  const most = Math.max(...rates.map((row) => Math.max(...row)));
  const full = mean ? 1.6 * mean : most;
  const image = brush.createImageData(columns, rows);
  for (const [n, row] of rates.entries())
    for (const [m, rate] of row.entries()) {
      if (rate <= 0) continue;
      const at = 4 * ((rows - 1 - n) * columns + m);
      image.data.set([24, 110, 160, Math.round(255 * (0.06 + 0.56 * Math.min(1, rate / full)))], at);
    }
  brush.putImageData(image, 0, 0);
  return canvas.toDataURL();
}
