import { inOrder } from "./clock";
import { fateOf, type Waiting } from "./custody";
import type { SureShelf } from "./kept";
import { marked } from "./mark";
import type { Answered, ProblemDocument, Said, Stage } from "./types";

/**
 * What was said on this device and is not yet with the server.
 *
 * Every event is kept under its own key until the server answers for it alone: kept, or refused and why. One that is refused
 * stays in sight until a person discards it or sends it again; it stands in no other's way. Nothing else drops an event.
 */

export type Entry = { job: string; event: Said; refused: ProblemDocument | null };

/** Why events wait, in true words; `until` is when they are tried again (ms since 1970). */
export type Trouble = { kind: Waiting; says: string; until: number } | null;

export type Boxed = {
  waiting: readonly Entry[];
  refused: readonly Entry[];
  trouble: Trouble;
  /** True where the browser would not keep an event, not in its database either, so that it lives in this page alone. */
  unkept: boolean;
  /** By how much (s) the server put this device's times right the last time it was told something; 0 where its clock is right. */
  clock: number;
};

export type Sent = (job: string, events: Said[], stage: Stage) => Promise<Answered>;

type Deps = {
  shelf: SureShelf;
  send: Sent;
  /** The problem an error of `send` stands for, or null where it is none of ours. */
  problemOf: (error: unknown) => ProblemDocument | null;
  now: () => number;
  later: (act: () => void, ms: number) => void;
  onChange: (boxed: Boxed) => void;
  onAnswer: (job: string, answer: Answered) => void;
};

const START = "hydrarch.said.";
const OLD = "hydrarch.queue.";
const AT_ONCE = 100;
/** After so many failures of a job its events are sent one by one, so that one that the server stumbles over holds back no other. */
const SINGLY = 3;
const FIRST = 2_000;
const LONGEST = 60_000;

export class Outbox {
  private inPage = new Map<string, Entry>();
  /** What this page has put on the shelf: to be put there again should somebody clear it. */
  private mine = new Map<string, Entry>();
  /** What the shelf is marked with: another mark is another shelf, the old one was cleared. */
  private mark: string | null = null;
  private sending: Promise<void> | null = null;
  private pause = FIRST;
  private trouble: Trouble = null;
  private stage: Stage = "make";
  private clock = 0;
  /** How often in a row the server failed over the events of a job. */
  private fails = new Map<string, number>();

  constructor(private readonly deps: Deps) {
    this.mark = marked(deps.shelf);
    this.moveOld();
  }

  entries(): Entry[] {
    this.mend();
    const stored = this.deps.shelf.keys(START).flatMap((k) => {
      const entry = parsed(this.deps.shelf.get(k));
      return entry ? [entry] : [];
    });
    const all = new Map([...stored, ...this.inPage.values()].map((e) => [e.event.id, e]));
    return [...all.values()].sort((a, b) => inOrder(a.event, b.event));
  }

  boxed(): Boxed {
    const all = this.entries();
    return {
      waiting: all.filter((e) => !e.refused),
      refused: all.filter((e) => e.refused),
      trouble: this.trouble,
      unkept: [...this.inPage.keys()].some((id) => !this.deps.shelf.sure(START + id)),
      clock: this.clock,
    };
  }

  /** Keep events and send them. Answers what the server says of each, by id; those it could not be asked about are not there. */
  async say(job: string, events: readonly Said[], stage: Stage): Promise<Map<string, ProblemDocument | null>> {
    this.stage = stage;
    for (const event of events) this.put({ job, event, refused: null });
    this.changed();
    await this.send(true);
    const left = new Map(this.entries().map((e) => [e.event.id, e]));
    const told = new Map<string, ProblemDocument | null>();
    for (const { id } of events) {
      const entry = left.get(id);
      if (!entry) told.set(id, null);
      else if (entry.refused) told.set(id, entry.refused);
    }
    return told;
  }

  /** Send all that waits, job by job. While that is under way another call waits for it and then sends what is new. */
  async send(now = false): Promise<void> {
    while (this.sending) await this.sending;
    if (!now && this.trouble && this.trouble.until > this.deps.now()) return;
    const waiting = this.boxed().waiting;
    if (!waiting.length) return this.clear();
    this.sending = this.sendAll(waiting).finally(() => {
      this.sending = null;
    });
    await this.sending;
    this.changed();
  }

  /** Drop an event: because a person said so, or because what they see tells them why it was refused. */
  discard(id: string): void {
    this.deps.shelf.drop(START + id);
    this.inPage.delete(id);
    this.mine.delete(id);
    this.changed();
  }

  /** Send a refused event again, about other joints if they are given. */
  async again(id: string, joints?: string[]): Promise<void> {
    const entry = this.entries().find((e) => e.event.id === id);
    if (!entry) return;
    this.put({ ...entry, event: { ...entry.event, joints: joints ?? entry.event.joints }, refused: null });
    this.changed();
    await this.send(true);
  }

  private async sendAll(waiting: readonly Entry[]): Promise<void> {
    const jobs = new Map<string, Entry[]>();
    for (const e of waiting) jobs.set(e.job, [...(jobs.get(e.job) ?? []), e]);
    let held = false;
    for (const [job, mine] of jobs) {
      const singly = (this.fails.get(job) ?? 0) >= SINGLY;
      const step = singly ? 1 : AT_ONCE;
      let failed = false;
      for (let i = 0; i < mine.length; i += step) {
        const sent = await this.sendSome(job, mine.slice(i, i + step));
        if (sent === "nothing more") return;
        failed ||= sent === "held";
        if (failed && !singly) break; // the server fails over this job: the others go on
      }
      if (failed) this.fails.set(job, (this.fails.get(job) ?? 0) + 1);
      else this.fails.delete(job);
      held ||= failed;
    }
    if (!held) this.clear();
  }

  /** Send some events of one job: all were answered, or the server failed over them, or nothing more of any job can be sent for now. */
  private async sendSome(job: string, some: Entry[]): Promise<"answered" | "held" | "nothing more"> {
    let answer: Answered;
    try {
      answer = await this.deps.send(
        job,
        some.map((e) => e.event),
        this.stage,
      );
    } catch (error) {
      const problem = this.deps.problemOf(error);
      if (!problem) throw error;
      return this.failed(job, some, problem);
    }
    const told = new Map(answer.events.map((e) => [e.id, e]));
    for (const entry of some) {
      const mine = told.get(entry.event.id);
      if (mine?.kept) this.forget(entry);
      else if (mine?.problem) this.put({ ...entry, refused: mine.problem });
    }
    this.clock = answer.clock;
    this.deps.onAnswer(job, answer);
    return "answered";
  }

  private async failed(
    job: string,
    some: Entry[],
    problem: ProblemDocument,
  ): Promise<"answered" | "held" | "nothing more"> {
    const fate = fateOf(problem);
    if (fate.kind === "waits") {
      const kind = fate.why;
      const says = {
        offline: "no signal",
        locked: "the server asks for the crew's passphrase again",
        busy: "the server is busy",
        server: "the server failed",
      }[kind];
      if (!this.trouble || this.trouble.until <= this.deps.now()) {
        this.trouble = { kind, says, until: this.deps.now() + this.pause };
        this.deps.later(() => void this.send(), this.pause + 10);
        this.pause = Math.min(LONGEST, this.pause * 2);
      }
      return kind === "server" ? "held" : "nothing more";
    }
    if (some.length === 1 && some[0]) {
      this.put({ ...some[0], refused: problem });
      return "answered";
    }
    let held = false;
    for (const e of some) {
      const sent = await this.sendSome(job, [e]);
      if (sent === "nothing more") return sent;
      held ||= sent === "held";
    }
    return held ? "held" : "answered";
  }

  private clear(): void {
    this.trouble = null;
    this.pause = FIRST;
  }

  private put(entry: Entry): void {
    const { id } = entry.event;
    if (this.deps.shelf.put(START + id, JSON.stringify(entry))) {
      this.inPage.delete(id);
      this.mine.set(id, entry);
    } else this.inPage.set(id, entry);
  }

  private forget({ event }: Entry): void {
    this.deps.shelf.drop(START + event.id);
    this.inPage.delete(event.id);
    this.mine.delete(event.id);
  }

  /** Where the shelf was cleared under this page, what it said is put there again; what is gone by itself another page has seen to. */
  private mend(): void {
    const before = this.mark;
    this.mark = marked(this.deps.shelf);
    const cleared = before !== this.mark;
    for (const [id, entry] of this.mine) {
      if (this.deps.shelf.get(START + id) !== null) continue;
      this.mine.delete(id);
      if (cleared) this.put(entry);
    }
  }

  /** What was in this page alone may be kept now. */
  keptNow(): void {
    this.changed();
  }

  private changed(): void {
    this.deps.onChange(this.boxed());
  }

  /** Events kept by the page as it was before each had a key of its own. */
  private moveOld(): void {
    for (const key of this.deps.shelf.keys(OLD)) {
      const job = key.slice(OLD.length);
      let events: unknown;
      try {
        events = JSON.parse(this.deps.shelf.get(key) ?? "[]");
      } catch {
        continue;
      }
      if (!Array.isArray(events)) continue;
      for (const event of events as Said[]) if (event?.id) this.put({ job, event, refused: null });
      if (!this.inPage.size) this.deps.shelf.drop(key);
    }
  }
}

function parsed(text: string | null): Entry | null {
  try {
    const entry = JSON.parse(text ?? "null") as Entry | null;
    return entry?.event?.id && entry.job ? entry : null;
  } catch {
    return null;
  }
}
