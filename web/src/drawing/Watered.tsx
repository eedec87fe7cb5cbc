import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api } from "../api/client";
import type { Coverage } from "../api/types";
import { useReadyJob, useSaved } from "../job/hooks";
import { toScreen, type View } from "./geometry";

/** Where the water lands, painted under the line as it is seen from above: the more, the bluer. It is asked for when it is looked at. */
export function Watered({ found, view }: { found: Coverage; view: View }) {
  const { job } = useReadyJob();
  const saved = useSaved();
  const { data } = useQuery({
    queryKey: ["watered", job.id, job.revision, found.scenario],
    queryFn: () => api.watered(job.id, found.scenario),
    enabled: saved,
  });
  const picture = useMemo(() => (data ? paint(data.rates as number[][], found.mean) : ""), [data, found.mean]);
  if (!data || !picture) return null;
  const high = data.rates.length * data.cell;
  const wide = (data.rates[0]?.length ?? 0) * data.cell;
  const corner = toScreen(view, { x: data.x, y: data.y + high });
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
