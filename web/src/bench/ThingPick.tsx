import type { EndView, Reference } from "../api/types";
import { Pick } from "../ui/parts";

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
    </fieldset>
  );
}
