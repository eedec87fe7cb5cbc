import { useState } from "react";
import type { EndView, Reference } from "../api/types";
import { Button, Pick } from "../ui/parts";
import { EndGallery } from "./EndGallery";

export type Chosen = { series: string; size: string; end: null } | { end: string; series: null; size: null };

type ThingProps = {
  title: string;
  reference: Reference;
  ends: readonly EndView[];
  value: Chosen;
  onPick: (value: Chosen) => void;
};

/** One side of the question: a cut pipe by series and size, or an open end. */
export function ThingPick({ title, reference, ends, value, onPick }: ThingProps) {
  const series = reference.series.find((s) => s.id === value.series);
  const [gallery, setGallery] = useState(false);
  return (
    <fieldset className="grid grid-cols-[2fr_1fr] gap-2">
      <legend className="mb-1 font-semibold">{title}</legend>
      <Pick
        label={`${title}: what`}
        hideLabel
        options={[...reference.series.map((s) => [s.id, s.name] as const), ["end", "an open end …"]]}
        value={value.series ?? "end"}
        onPick={(v) => {
          if (v === "end") onPick({ end: ends[0]?.name ?? "", series: null, size: null });
          else {
            const sizes = reference.series.find((s) => s.id === v)?.sizes ?? [];
            const size = sizes.find((s) => s.size === value.size)?.size ?? sizes[0]?.size ?? "";
            onPick({ series: v, size, end: null });
          }
        }}
      />
      {value.series !== null ? (
        <Pick
          label={`${title}: size`}
          hideLabel
          options={(series?.sizes ?? []).map((s) => [s.size, s.size] as const)}
          value={value.size}
          onPick={(size) => onPick({ series: value.series, size, end: null })}
        />
      ) : (
        <Pick
          label={`${title}: end`}
          hideLabel
          options={ends.map((e) => [e.name, e.words] as const)}
          value={value.end}
          onPick={(end) => onPick({ end, series: null, size: null })}
        />
      )}
      <div className="col-span-2">
        <Button tone="quiet" aria-expanded={gallery} onClick={() => setGallery(!gallery)}>
          {gallery ? "Close the shapes" : `Pick ${title === "to" ? "the other" : "the first"} end by its shape`}
        </Button>
        {gallery && (
          <EndGallery
            ends={ends}
            size={value.size ?? ends.find((e) => e.name === value.end)?.size ?? "1"}
            onPick={(end) => {
              setGallery(false);
              onPick({ end, series: null, size: null });
            }}
          />
        )}
      </div>
    </fieldset>
  );
}

/** A thing as it stands in an address: "pvc40 1" is a pipe, "npt:male:1" an end. */
export const thingFrom = (text: string | null): Chosen | null => {
  if (!text) return null;
  if (text.includes(":")) return { end: text, series: null, size: null };
  const [series, size] = text.split(" ");
  return series && size ? { series, size, end: null } : null;
};

export const thingText = (series: string | null, size: string, end: string | null): string =>
  end ?? `${series} ${size}`;
