/**
 * What was typed and is still being read by the core: whoever presses a button meanwhile means what they typed.
 *
 * Over a slow link the answer comes after the press; the press waits for it, and is not done where it cannot be read.
 */

const under = new Set<Promise<boolean>>();

/** Something typed is being read; it comes to whether it could be. */
export function reading(read: Promise<boolean>): void {
  under.add(read);
  void read.finally(() => under.delete(read));
}

export const isReading = (): boolean => under.size > 0;

/** Once all of it is read: whether all of it could be. */
export async function allRead(): Promise<boolean> {
  while (under.size) {
    if (!(await Promise.all(under)).every(Boolean)) return false;
  }
  return true;
}
