/** One thing of a state changed and the rest left as it is by then: two answers that come at once both stay. */
export const put =
  <T, K extends keyof T>(key: K, value: T[K]) =>
  (was: T): T => ({ ...was, [key]: value });
