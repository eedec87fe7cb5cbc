import type { UnitSystem } from "../api/types";

/**
 * A figure as it is typed: decimal point or comma, thousands apart or not. What can be read in two ways is refused, never guessed.
 * The core reads figures the same way (core/numerals.py); both are tested with tests/cases/numbers.json.
 */

export type DecimalMark = "." | "," | "";

/** The decimal mark that is settled by the units a person works in: in US units a comma parts thousands. */
export const markOf = (system: UnitSystem): DecimalMark => (system === "us" ? "." : "");

const THOUSANDS_COMMA = /^\d{1,3}(?:,\d{3})+(?:\.\d+)?$/;
const THOUSANDS_POINT = /^\d{1,3}(?:\.\d{3})+(?:,\d+)?$/;
const PLAIN = /^(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d{1,3})?$/;

/** The value of a figure without unit; null where it is no number, or can be read in two ways. */
export function numeral(text: string, mark: DecimalMark): number | null {
  const bare = text.trim().replace(/[\u00a0\u202f\u2009]/g, "");
  const sign = /^[-\u2212]/.test(bare) ? -1 : 1;
  const figure = bare.replace(/^[-+\u2212]+/, "");
  const commas = figure.split(",").length - 1;
  const points = figure.split(".").length - 1;
  if (THOUSANDS_COMMA.test(figure) && figure[0] !== "0" && mark !== ",")
    return commas === 1 && points === 0 && mark === "" ? null : sign * Number(figure.replaceAll(",", ""));
  if (THOUSANDS_POINT.test(figure) && (mark === "," || (mark === "" && (commas > 0 || points > 1))))
    return sign * Number(figure.replaceAll(".", "").replace(",", "."));
  return PLAIN.test(figure) ? sign * Number(figure.replace(",", ".")) : null;
}
