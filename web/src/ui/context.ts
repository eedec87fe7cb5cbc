import { createContext, useContext } from "react";
import type { Reference } from "../api/types";
import type { Formatter } from "../ui/format";

/** What every view of a job needs: the reference data and the job's own units. */
export const ReferenceContext = createContext<Reference | null>(null);
export const FormatContext = createContext<Formatter | null>(null);

export function useReference(): Reference {
  const reference = useContext(ReferenceContext);
  if (!reference) throw new Error("reference data is not loaded");
  return reference;
}

export function useFormat(): Formatter {
  const format = useContext(FormatContext);
  if (!format) throw new Error("units are not known yet");
  return format;
}
