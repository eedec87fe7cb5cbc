/** A wait in words: seconds to two minutes, minutes to two hours, then hours. */
export const holdWords = (seconds: number): string =>
  seconds < 120
    ? `${Math.round(seconds)} s`
    : seconds < 7200
      ? `${Math.round(seconds / 60)} min`
      : `${Math.round(seconds / 360) / 10} h`;
