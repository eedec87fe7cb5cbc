import { createContext, useContext, useInsertionEffect, useMemo } from "react";
import { speakIn } from "../api/client";
import type { Reference, UnitSystem } from "../api/types";
import { type Formatter, formatter } from "../ui/format";

/** What every view of a job needs: the reference data and the job's own units. */
export const ReferenceContext = createContext<Reference | null>(null);
export const FormatContext = createContext<Formatter | null>(null);

export function useReference(): Reference {
  const reference = useContext(ReferenceContext);
  if (!reference) throw new Error("reference data is not loaded");
  return reference;
}

/** Numbers are set in these units from here on, and refusals told in them; null until the table of quantities is there. */
export function useFormatOf(reference: Reference | undefined, units: UnitSystem): Formatter | null {
  useInsertionEffect(() => speakIn(units), [units]); // before any part below asks
  return useMemo(() => (reference ? formatter(reference.quantities, units) : null), [reference, units]);
}

export function useFormat(): Formatter {
  const format = useContext(FormatContext);
  if (!format) throw new Error("units are not known yet");
  return format;
}
