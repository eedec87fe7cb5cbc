import type { FieldSpec } from "../api/types";
import { Pick } from "../ui/parts";
import { Typed } from "../ui/Typed";

type FieldsProps = {
  fields: readonly FieldSpec[];
  values: Record<string, unknown>;
  onChange: (change: Record<string, unknown>) => void;
};

/** The numbers and choices a kind of point or the job has, as the core describes them. */
export function Fields({ fields, values, onChange }: FieldsProps) {
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      {fields.map((f) => {
        if (f.quantity)
          return (
            <Typed
              key={f.name}
              label={f.label}
              quantity={f.quantity}
              value={(values[f.name] as number | null | undefined) ?? null}
              onValue={(v) => onChange({ [f.name]: v })}
              onClear={f.default === null ? () => onChange({ [f.name]: null }) : undefined}
              hint={f.default === null ? "worked out" : undefined}
            />
          );
        if (f.choices.length)
          return (
            <Pick
              key={f.name}
              label={f.label}
              options={f.choices.map((c) => [c, c] as const)}
              value={String(values[f.name] ?? f.default)}
              onPick={(v) => onChange({ [f.name]: v })}
            />
          );
        return null;
      })}
    </div>
  );
}
