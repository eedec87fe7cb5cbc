import { Children, type ComponentProps, type ReactNode, useId, useLayoutEffect, useRef, useState } from "react";
import { inTurn, isReading, press as pressOnce } from "./reading";

/** Small parts that every sheet is made of. Rest props go to the element; state shows as data-*. */

type ButtonProps = ComponentProps<"button"> & { tone?: "plain" | "main" | "dry" | "quiet"; big?: boolean };

const tones = {
  plain: "border border-edge bg-panel text-ink hover:bg-paper",
  main: "bg-water text-on-water hover:opacity-90 font-semibold",
  dry: "border-2 border-dry bg-panel text-dry font-semibold hover:bg-dry-soft",
  quiet: "text-water hover:underline",
};

/** A press waits for what was typed just before it, and is not done where that cannot be read. */
export function Button({
  tone = "plain",
  big = false,
  className = "",
  type = "button",
  onClick,
  ...rest
}: ButtonProps) {
  const act = useRef(onClick);
  useLayoutEffect(() => {
    act.current = onClick;
  });
  const press: typeof onClick = (event) => {
    if (!isReading()) return onClick?.(event);
    event.preventDefault();
    const button = event.currentTarget;
    pressOnce(() => {
      if (button.disabled || !button.isConnected) return;
      act.current?.(event);
      if (type === "submit") button.form?.requestSubmit(button);
    });
  };
  const size = big
    ? "min-h-[56px] text-lg px-4 pointer-coarse:min-h-[64px]"
    : `${tone === "quiet" ? "min-h-[32px] px-1" : "min-h-[36px] px-3"} pointer-coarse:min-h-[44px]`;
  return (
    <button
      type={type}
      data-tone={tone}
      className={`inline-flex items-center justify-center gap-2 rounded-[4px] disabled:opacity-45 ${size} ${tones[tone]} ${className}`}
      onClick={press}
      {...rest}
    />
  );
}

export function Heading({ children, note }: { children: ReactNode; note?: ReactNode }) {
  return (
    <div className="mt-5 mb-1.5 flex flex-wrap items-baseline justify-between gap-x-3">
      <h2 className="text-[0.9375rem] font-bold">{children}</h2>
      {note && <span className="text-[0.8125rem] text-muted">{note}</span>}
    </div>
  );
}

type FoldProps = { title: string; note?: ReactNode; folded?: boolean; children: ReactNode };

/** A part of a long page that a phone folds away and a desk shows, unless it is to be `folded` on both. */
export function Fold({ title, note, folded = false, children }: FoldProps) {
  const [open] = useState(() => !folded && window.matchMedia("(min-width: 64rem)").matches);
  return (
    <details open={open} className="group/fold mt-3 lg:mt-5 border-line border-b pb-2 lg:border-b-0">
      <summary className="mb-1.5 flex min-h-[28px] cursor-pointer items-baseline justify-between gap-x-3 pointer-coarse:min-h-[44px] pointer-coarse:items-center">
        <h2 className="grow text-[0.9375rem] font-bold">
          <span aria-hidden="true" className="mr-1.5 inline-block group-open/fold:rotate-90">
            ›
          </span>
          {title}
        </h2>
        <span className="text-[0.8125rem] text-muted">{note}</span>
      </summary>
      {children}
    </details>
  );
}

export function Title({ children, note }: { children: ReactNode; note?: ReactNode }) {
  return (
    <header className="mb-3">
      <h1 className="text-xl leading-tight font-bold">{children}</h1>
      {note && <p className="text-sm text-muted">{note}</p>}
    </header>
  );
}

type Tone = "ink" | "dry" | "curing" | "proved" | "water" | "fault";

const boxes: Record<Tone, string> = {
  ink: "bg-panel border-line",
  dry: "bg-dry-soft border-dry",
  curing: "bg-curing-soft border-curing",
  proved: "bg-proved-soft border-proved",
  water: "bg-water-soft border-water",
  fault: "bg-panel border-fault",
};

export function Box({ tone = "ink", className = "", ...rest }: ComponentProps<"div"> & { tone?: Tone }) {
  return <div data-tone={tone} className={`my-2 border-l-4 px-3 py-2 ${boxes[tone]} ${className}`} {...rest} />;
}

type TableProps<Item> = {
  head: ReactNode[];
  caption: string;
  numbers?: readonly number[];
  /** Rows as they stand, or what to make each of: only those that are shown are made. */
  children?: ReactNode;
  of?: readonly Item[];
  row?: (item: Item) => ReactNode;
};

/** Rows a table shows before all are asked for: a thousand are read by nobody, and hold every press up. */
const MANY = 120;

export function Table<Item>({ head, caption, numbers = [], children, of, row }: TableProps<Item>) {
  const [all, setAll] = useState(false);
  const rows = of ?? Children.toArray(children);
  const few = all ? rows : rows.slice(0, MANY);
  const shown = of && row ? (few as readonly Item[]).map(row) : (few as ReactNode);
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-[0.875rem]">
        <caption className="sr-only">{caption}</caption>
        <thead>
          <tr className="text-left text-[0.78125rem] text-muted">
            {head.map((h, i) => (
              <th
                // biome-ignore lint/suspicious/noArrayIndexKey: a head does not move
                key={i}
                scope="col"
                className={`border-b border-line py-1 pr-3 font-normal last:pr-0 ${numbers.includes(i) ? "text-right" : ""}`}
              >
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{shown}</tbody>
      </table>
      {!all && rows.length > MANY && (
        <Button className="mt-1" onClick={() => setAll(true)}>
          Show all {rows.length} rows
        </Button>
      )}
    </div>
  );
}

export function Row({ selected = false, className = "", ...rest }: ComponentProps<"tr"> & { selected?: boolean }) {
  return (
    <tr
      data-selected={selected || undefined}
      className={`border-b border-line align-top pointer-coarse:align-middle data-selected:bg-water-soft [&>td]:py-1.5 [&>td]:pr-3 [&>td:last-child]:pr-0 ${className}`}
      {...rest}
    />
  );
}

export function Check({ label, className = "", ...rest }: ComponentProps<"input"> & { label: ReactNode }) {
  return (
    <label className={`inline-flex min-h-[32px] items-center gap-2 pointer-coarse:min-h-[44px] ${className}`}>
      <input type="checkbox" className="size-4.5 accent-water" {...rest} />
      <span>{label}</span>
    </label>
  );
}

type PickProps = Omit<ComponentProps<"select">, "onChange"> & {
  label: string;
  options: readonly (readonly [string, string])[];
  onPick: (value: string) => void;
  hideLabel?: boolean;
};

/** A native select: it opens as the phone's own wheel, and works by keyboard everywhere. */
export function Pick({ label, options, onPick, hideLabel = false, className = "", ...rest }: PickProps) {
  const id = useId();
  return (
    <div className={`flex min-w-0 flex-col text-[0.8125rem] text-muted ${className}`}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : ""}>
        {label}
      </label>
      <select
        id={id}
        className="min-h-[36px] w-full min-w-0 rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
        onChange={({ target: { value } }) => inTurn(() => onPick(value))}
        {...rest}
      >
        {options.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
    </div>
  );
}
