import type { Shelf } from "./kept";

/** News of a job from the server; "again" means that some may have been missed. */
export type News = {
  job: string;
  what: "plan" | "events" | "gone" | "here" | "photos" | "again";
  revision: number;
  by: string;
};

type Channel = { post: (news: News) => void; hear: (take: (news: News) => void) => void };
type Stream = { close: () => void };

type Deps = {
  page: string;
  shelf: Shelf;
  channel: Channel;
  open: (onNews: (news: News) => void, onOpen: () => void) => Stream;
  now: () => number;
  every: (act: () => void, ms: number) => void;
};

const KEY = "hydrarch.live";
const BEAT = 2_000;
const STALE = 7_000;
const AGAIN: News = { job: "", what: "again", revision: 0, by: "" };

/**
 * All tabs of a browser share one stream, because a browser opens few connections to one server: one tab holds it, says so every
 * other second in what the browser keeps, and passes news on. When it falls silent, the next tab that looks takes over.
 */
export class Live {
  private stream: Stream | null = null;
  private takers = new Set<(news: News) => void>();

  constructor(private readonly deps: Deps) {
    deps.channel.hear((news) => this.give(news));
    deps.every(() => this.beat(), BEAT);
    this.beat();
  }

  /** Be told of news until the answer is called. */
  listen(take: (news: News) => void): () => void {
    this.takers.add(take);
    return () => this.takers.delete(take);
  }

  get holds(): boolean {
    return this.stream !== null;
  }

  /** Let another tab take over; for a page that is left. */
  leave(): void {
    if (!this.stream) return;
    this.stream.close();
    this.stream = null;
    this.deps.shelf.drop(KEY);
  }

  private beat(): void {
    const other = this.holder();
    const { now, page, shelf } = this.deps;
    if (other && other.page !== page && now() - other.at < STALE) {
      this.stream?.close();
      this.stream = null;
      return;
    }
    shelf.put(KEY, JSON.stringify({ page, at: now() }));
    this.stream ??= this.deps.open(
      (news) => this.pass(news),
      () => this.pass(AGAIN),
    );
  }

  private holder(): { page: string; at: number } | null {
    try {
      return JSON.parse(this.deps.shelf.get(KEY) ?? "null") as { page: string; at: number } | null;
    } catch {
      return null;
    }
  }

  private pass(news: News): void {
    this.deps.channel.post(news);
    this.give(news);
  }

  private give(news: News): void {
    for (const take of this.takers) take(news);
  }
}
