import type { Shelf, SureShelf } from "./kept";

/** A second shelf that answers later: what is on it, and whether it took what it was given. */
export type Second = {
  all: () => Promise<readonly (readonly [string, string])[]>;
  put: (key: string, text: string) => Promise<boolean>;
  drop: (key: string) => Promise<unknown>;
};

const PATIENCE = 2_000;

/**
 * Two shelves as one: everything is put on both. The first takes it before the press returns, and every tab sees it at once; the second
 * answers later, has more room, and what it took is on the disk. What the first will not take, being full or told to keep nothing, is on
 * the second alone: until that has answered, and where it will not, `sure` says that this page alone has it.
 */
export class Twice implements SureShelf {
  private over = new Map<string, { text: string; kept: boolean }>();
  /** What the second is yet to be told, by key: the newest alone, and null for what is dropped. */
  private wanted = new Map<string, string | null>();
  private telling = new Set<string>();
  private read: Promise<void> | null = null;

  constructor(
    private readonly first: Shelf,
    private readonly second: Second,
    /** What was in this page alone is kept now. */
    private readonly onKept: () => void = () => {},
  ) {}

  /** Once what an earlier page put on the second shelf is read; a shelf that does not answer is not waited for. */
  ready(): Promise<void> {
    this.read ??= Promise.race([this.take(), new Promise<void>((done) => setTimeout(done, PATIENCE))]);
    return this.read;
  }

  private async take(): Promise<void> {
    const there = new Map(await this.second.all());
    for (const [key, text] of there)
      if (this.first.get(key) === null && !this.over.has(key) && !this.wanted.has(key))
        this.over.set(key, { text, kept: true });
    for (const key of this.first.keys("")) {
      const text = this.first.get(key);
      if (text !== null && there.get(key) !== text && !this.over.has(key)) this.tell(key, text);
    }
  }

  get(key: string): string | null {
    return this.over.get(key)?.text ?? this.first.get(key);
  }

  /** False where the first would not take it: it is on the second alone, or will be. */
  put(key: string, text: string): boolean {
    const taken = this.first.put(key, text);
    if (taken) this.over.delete(key);
    else this.over.set(key, { text, kept: false });
    this.tell(key, text);
    return taken;
  }

  drop(key: string): void {
    this.first.drop(key);
    this.over.delete(key);
    this.tell(key, null);
  }

  keys(start: string): string[] {
    const over = [...this.over.keys()].filter((k) => k.startsWith(start));
    return [...new Set([...this.first.keys(start), ...over])];
  }

  /** Whether what was put there last outlives this page. */
  sure(key: string): boolean {
    return this.over.get(key)?.kept ?? this.first.get(key) !== null;
  }

  /** Tell the second shelf, one thing of a key after another; what is newer meanwhile takes the place of what it was not told yet. */
  private tell(key: string, text: string | null): void {
    this.wanted.set(key, text);
    if (!this.telling.has(key)) void this.tellAll(key);
  }

  private async tellAll(key: string): Promise<void> {
    this.telling.add(key);
    for (let text = this.wanted.get(key); text !== undefined; text = this.wanted.get(key)) {
      this.wanted.delete(key);
      if (text === null) await this.second.drop(key);
      else this.took(key, text, await this.second.put(key, text));
    }
    this.telling.delete(key);
  }

  private took(key: string, text: string, taken: boolean): void {
    const mine = this.over.get(key);
    if (mine?.text !== text || mine.kept) return;
    mine.kept = taken;
    if (!taken) return;
    this.first.drop(key); // what the first still has of it is older
    this.onKept();
  }
}
