import type { FieldView } from "../api/types";
import { useFormat } from "../ui/context";
import { Button, Heading, Pick } from "../ui/parts";
import { Counted, Typed, Words } from "../ui/Typed";
import { Curve, type CurvePoint } from "./Curve";
import { EndPick } from "./EndPick";

type Values = Record<string, unknown>;
type FieldsProps = { fields: readonly FieldView[]; values: Values; onChange: (change: Values) => void };

/** Every field a kind of thing or the job has, as the core describes it: numbers, words, choices, curves and rows. */
export function Fields({ fields, values, onChange }: FieldsProps) {
  const small = fields.filter((f) => !["curve", "rows"].includes(f.shape));
  return (
    <>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        {small.map((f) => (
          <Field key={f.name} field={f} value={values[f.name]} onValue={(v) => onChange({ [f.name]: v })} />
        ))}
      </div>
      {fields
        .filter((f) => f.shape === "curve")
        .map((f) => (
          <Curve
            key={f.name}
            title={f.label}
            curve={(values[f.name] as CurvePoint[] | undefined) ?? []}
            onCurve={(curve) => onChange({ [f.name]: curve })}
          />
        ))}
      {fields
        .filter((f) => f.shape === "rows")
        .map((f) => (
          <Rows
            key={f.name}
            field={f}
            rows={(values[f.name] as Values[] | undefined) ?? []}
            onRows={(rows) => onChange({ [f.name]: rows })}
          />
        ))}
    </>
  );
}

type FieldProps = { field: FieldView; value: unknown; onValue: (value: unknown) => void };

function Field({ field: f, value, onValue }: FieldProps) {
  const format = useFormat();
  if (f.shape === "choice")
    return (
      <Pick
        label={f.label}
        options={f.choices.map((c) => [c, c || "none"] as const)}
        value={String(value ?? f.default)}
        onPick={onValue}
      />
    );
  if (f.shape === "end")
    return <EndPick label={f.label} value={String(value ?? f.default)} onValue={(end) => end && onValue(end)} />;
  if (f.shape === "text") return <Words label={f.label} value={String(value ?? "")} onValue={onValue} />;
  if (f.quantity === null)
    return (
      <Counted
        label={f.label}
        value={Number(value ?? f.default)}
        low={f.low ?? 0}
        high={f.high ?? 999}
        onValue={onValue}
      />
    );
  const limits = [f.low, f.high].map((n) => (n === null ? "" : format(n, f.quantity ?? "")));
  return (
    <Typed
      label={f.label}
      quantity={f.quantity}
      value={(value as number | null | undefined) ?? null}
      low={f.low}
      high={f.high}
      limits={`between ${limits[0]} and ${limits[1]}`}
      onValue={onValue}
      onClear={f.default === null ? () => onValue(null) : undefined}
      hint={f.default === null ? "worked out" : undefined}
    />
  );
}

/** A list of a thing, such as the ports a crew says its equipment has: each row with its own fields. */
function Rows({ field, rows, onRows }: { field: FieldView; rows: Values[]; onRows: (rows: Values[]) => void }) {
  const fresh = () => {
    const row = Object.fromEntries(field.fields.map((f) => [f.name, f.default]));
    const names = new Set(rows.map((r) => r.name));
    let n = rows.length + 1;
    while (names.has(`port-${n}`)) n += 1;
    return { ...row, ...("name" in row || field.fields.some((f) => f.name === "name") ? { name: `port-${n}` } : {}) };
  };
  return (
    <section aria-label={field.label}>
      <Heading note={`${rows.length}`}>{field.label}</Heading>
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows keep their order
        <fieldset key={i} className="mb-2 border-b border-line pb-2">
          <legend className="sr-only">
            {field.label} {i + 1}
          </legend>
          <div className="grid grid-cols-2 gap-x-3 gap-y-1">
            {field.fields.map((f) => (
              <Field
                key={f.name}
                field={f}
                value={row[f.name]}
                onValue={(v) => onRows(rows.map((r, n) => (n === i ? { ...r, [f.name]: v } : r)))}
              />
            ))}
          </div>
          <Button
            tone="quiet"
            disabled={rows.length <= (field.low ?? 0)}
            aria-label={`Take out ${String(row.name ?? i + 1)}`}
            onClick={() => onRows(rows.filter((_, n) => n !== i))}
          >
            Take it out
          </Button>
        </fieldset>
      ))}
      <Button disabled={rows.length >= (field.high ?? 8)} onClick={() => onRows([...rows, fresh()])}>
        Add one
      </Button>
    </section>
  );
}
