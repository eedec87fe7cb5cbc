import { create } from "zustand";

/**
 * Whether the server answers: since when (ms since 1970) it does not, null while it does. `along` is the job that is kept here whole, to be
 * opened with no signal.
 */
type Signal = { lostAt: number | null; along: { job: string; revision: number } | null };

export const useSignal = create<Signal>(() => ({ lostAt: null, along: null }));

export const signalLost = (): void => useSignal.setState((s) => (s.lostAt === null ? { lostAt: Date.now() } : {}));
export const signalFound = (): void => useSignal.setState((s) => (s.lostAt === null ? {} : { lostAt: null }));
