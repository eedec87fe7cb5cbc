import type { Shelf, SureShelf } from "./kept";

/** A second shelf that answers later: what is on it, and whether it took what it was given. */
export type Second = {
  all: () => Promise<readonly (readonly [string, string])[]>;
  put: (key: string, text: string) => Promise<boolean>;
  drop: (key: string) => Promise<unknown>;
};

const PATIENCE = 2_000;

/**
 * Two shelves as one. What the first will not take, being full or told to keep nothing, goes to the second, which has more room and answers
 * later: until it has, and where it will not, `sure` says that this page alone has it.
 */
export class Spare implements SureShelf {
  private over = new Map<string, { text: string; kept: boolean }>();

  constructor(
    private readonly first: Shelf,
    private readonly second: Second,
    /** What was in this page alone is kept now. */
    private readonly onKept: () => void = () => {},
  ) {}

  private read: Promise<void> | null = null;

  /** Once what an earlier page put on the second shelf is read; a shelf that does not answer is not waited for. */
  ready(): Promise<void> {
    this.read ??= Promise.race([this.take(), new Promise<void>((done) => setTimeout(done, PATIENCE))]);
    return this.read;
  }

  private async take(): Promise<void> {
    for (const [key, text] of await this.second.all())
      if (this.first.get(key) !== null)
        void this.second.drop(key); // it had room again, and is newer
      else if (!this.over.has(key)) this.over.set(key, { text, kept: true });
  }

  get(key: string): string | null {
    return this.over.get(key)?.text ?? this.first.get(key);
  }

  /** False where the first would not take it: it is given to the second. */
  put(key: string, text: string): boolean {
    const taken = this.first.put(key, text);
    if (taken) {
      if (this.over.delete(key)) void this.second.drop(key);
      return true;
    }
    const mine = { text, kept: false };
    this.over.set(key, mine);
    void this.second.put(key, text).then((kept) => {
      if (this.over.get(key) !== mine) return;
      mine.kept = kept;
      if (kept) {
        this.first.drop(key); // what the first still has of it is older
        this.onKept();
      }
    });
    return false;
  }

  drop(key: string): void {
    this.first.drop(key);
    if (this.over.delete(key)) void this.second.drop(key);
  }

  keys(start: string): string[] {
    const over = [...this.over.keys()].filter((k) => k.startsWith(start));
    return [...new Set([...this.first.keys(start), ...over])];
  }

  /** Whether what was put there last outlives this page. */
  sure(key: string): boolean {
    return this.over.get(key)?.kept ?? this.first.get(key) !== null;
  }
}
