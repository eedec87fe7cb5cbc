/**
 * What was typed and is still being read by the core: whoever presses a button meanwhile means what they typed by then.
 *
 * Over a slow link the answer comes after the press; the press waits for it, and is not done where it cannot be read. What is typed,
 * picked or pressed after that press is taken after it.
 */

const under = new Set<Promise<boolean>>();
let presses = 0;
let pending: Promise<void> | null = null;

/** Something typed is being read; it comes to whether it could be. */
export function reading(read: Promise<boolean>): void {
  under.add(read);
  void read.finally(() => under.delete(read));
}

export const isReading = (): boolean => under.size > 0 || pending !== null;

/** How many presses have had to wait so far. */
export const pressesSoFar = (): number => presses;

/** Done once the presses that wait now are done; null where none does. */
export const pressesDone = (): Promise<void> | null => pending;

/** Do something once all that is being read now is read and the presses before are done; not where something cannot be read. */
export function press(act: () => void): void {
  presses += 1;
  const [before, reads] = [pending, [...under]];
  const done = (async () => {
    await before;
    if (!(await Promise.all(reads)).every(Boolean)) return;
    await new Promise<void>((next) =>
      setTimeout(() => {
        act(); // once the page shows what was read
        next();
      }),
    );
  })().finally(() => {
    if (pending === done) pending = null;
  });
  pending = done;
}

/** Do something now, or once the presses that wait are done. */
export function inTurn(act: () => void): void {
  if (pending) void pending.then(act);
  else act();
}
