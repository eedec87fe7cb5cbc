import { useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import { api, Refused } from "../api/client";
import { useFormat } from "../ui/context";
import { pressesDone, pressesSoFar, reading } from "./reading";

type TypedProps = {
  label: string;
  quantity: string;
  value: number | null;
  onValue: (value: number) => void;
  onClear?: () => void;
  hint?: string;
  /** The least and the most it may be (SI), and how that is said. */
  low?: number | null;
  high?: number | null;
  limits?: string;
  className?: string;
};

/** A number as a crew types it, in any unit; the core reads it, and a word of help stands under it when it cannot. */
export function Typed(props: TypedProps) {
  const { label, quantity, value, onValue, onClear, hint, low, high, limits = "", className = "" } = props;
  const format = useFormat();
  const id = useId();
  const shown = value === null ? "" : format.bare(value, quantity);
  const [text, setText] = useState(shown);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setFault(null);
  }, [shown]);

  // over a slow link other fields change, and this one again, before the answer comes: it goes to what is shown then, the last one only
  const take = useRef(onValue);
  const turn = useRef(0);
  const pressed = useRef<number[]>([]); // how many presses had waited when it was typed for the so manieth time
  useLayoutEffect(() => {
    take.current = onValue;
  });

  const commit = () => {
    turn.current += 1;
    pressed.current[turn.current] = pressesSoFar();
    if (text.trim() === shown) return;
    if (!text.trim() && onClear) {
      onClear();
      return;
    }
    reading(readIt(turn.current, pressesDone()));
  };

  /** Whether it was typed again before anybody pressed a button that meant it. */
  const isOver = (mine: number) => mine !== turn.current && pressed.current[mine + 1] === pressed.current[mine];

  const readIt = async (mine: number, before: Promise<void> | null): Promise<boolean> => {
    try {
      const read = await api.read(text, quantity, format.system);
      await before;
      if (isOver(mine)) return true;
      const out = (low != null && read.value < low) || (high != null && read.value > high);
      setFault(out ? `${read.shown} will not do: ${limits}.` : null);
      if (!out) take.current(read.value);
      if (!out && format.bare(read.value, quantity) === shown) setText(shown); // the same in other words
      return !out;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      if (!isOver(mine)) setFault(error.problem.detail);
      return isOver(mine);
    }
  };

  return (
    <div className={`flex min-w-fit flex-col ${className}`}>
      <label htmlFor={id} className="text-[0.8125rem] text-muted">
        {label}
      </label>
      <div className="flex items-center rounded-[4px] border border-edge bg-panel focus-within:border-water">
        <input
          id={id}
          value={text}
          placeholder={hint}
          inputMode="text"
          autoComplete="off"
          aria-invalid={fault !== null}
          aria-describedby={fault ? `${id}-fault` : undefined}
          style={{ minWidth: `calc(${Math.max(4, text.length)}ch + 1.25rem)` }} // a figure is never half shown
          className="min-h-[34px] w-full bg-transparent px-2 pointer-coarse:min-h-[44px]"
          onChange={(e) => setText(e.target.value)}
          onBlur={commit}
          onKeyDown={(e) => {
            if (e.key === "Enter") commit();
            if (e.key === "Escape") {
              setText(shown);
              setFault(null);
            }
          }}
        />
        <span className="pr-2 text-[0.8125rem] text-muted">{/[a-z]/i.test(shown) ? "" : format.unit(quantity)}</span>
      </div>
      {fault && (
        <p id={`${id}-fault`} role="alert" className="mt-0.5 text-[0.8125rem] text-fault">
          {fault}
        </p>
      )}
    </div>
  );
}

type WordsProps = {
  label: string;
  value: string;
  onValue: (value: string) => void;
  /** Told at every letter, for words that are sent with a press. */
  live?: boolean;
  hint?: string;
  className?: string;
};

/** A name or note, kept when the field is left. */
export function Words({ label, value, onValue, live = false, hint, className = "" }: WordsProps) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <label className={`flex min-w-0 flex-col text-[0.8125rem] text-muted ${className}`}>
      {label}
      <input
        value={text}
        maxLength={80}
        placeholder={hint}
        className="min-h-[36px] min-w-0 rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
        onChange={(e) => {
          setText(e.target.value);
          if (live) onValue(e.target.value);
        }}
        onBlur={() => text !== value && onValue(text)}
        onKeyDown={(e) => e.key === "Enter" && text !== value && onValue(text)}
      />
    </label>
  );
}

type CountedProps = {
  label: string;
  value: number;
  low: number;
  high: number;
  onValue: (value: number) => void;
  onFits?: (fits: boolean) => void;
};

/** A whole number, such as how many of a thing there are; what is none is refused in words and not taken. */
export function Counted({ label, value, low, high, onValue, onFits }: CountedProps) {
  const [text, setText] = useState(String(value));
  const [says, setSays] = useState("");
  useEffect(() => setText(String(value)), [value]);
  const fitting = (typed: string) => {
    const count = Number(typed);
    return typed.trim() !== "" && Number.isInteger(count) && count >= low && count <= high;
  };
  const commit = () => {
    const fits = fitting(text);
    setSays(fits ? "" : `${text.trim() || "Nothing"} is no whole number from ${low} to ${high}; it stays at ${value}.`);
    if (fits && Number(text) !== value) onValue(Number(text));
  };
  return (
    <label className="flex min-w-0 flex-col text-[0.8125rem] text-muted">
      {label}
      <input
        value={text}
        inputMode="numeric"
        className="min-h-[36px] min-w-0 rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
        onChange={(e) => {
          setText(e.target.value);
          onFits?.(fitting(e.target.value));
        }}
        onBlur={commit}
        onKeyDown={(e) => e.key === "Enter" && commit()}
      />
      {says && (
        <span role="alert" className="text-fault">
          {says}
        </span>
      )}
    </label>
  );
}
