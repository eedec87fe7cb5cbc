import { fateOf, type Waiting } from "../api/custody";
import type { Shelf, SureShelf } from "../api/kept";
import type { JobView, Plan, ProblemDocument, Saved, StageAnswer } from "../api/types";
import { type Merged, merge, same } from "./merge";

/**
 * A plan as it is edited here, and as the server has it.
 *
 * Every change is kept in the browser until the server has it, so that a reload loses nothing. What others saved meanwhile is
 * brought together with what was changed here; only where both changed the same thing is a person asked.
 */

export type Saving = "saved" | "saving" | Waiting;

export type Clash = { base: Plan; mine: Plan; theirs: Plan; revision: number; both: string[] };

export type Synced = {
  job: string;
  revision: number;
  saved: Plan;
  plan: Plan;
  saving: Saving;
  clash: Clash | null;
  /** True where the browser would not keep the change, so that it lives in this page alone. */
  unkept: boolean;
};

type Deps = {
  /** Save what was changed since `base`, which is that revision. */
  save: (job: string, revision: number, plan: Plan, base: Plan) => Promise<Saved>;
  open: (job: string) => Promise<JobView>;
  /** This page's own name: each keeps what it changed under its own, so that two of one browser do not write over each other. */
  page: string;
  problemOf: (error: unknown) => ProblemDocument | null;
  shelf: SureShelf;
  later: (act: () => void, ms: number) => void;
  onChange: (now: Synced) => void;
  onAnswer: (answer: StageAnswer) => void;
  /** The server would not take `plan`: what to go back to. */
  onRefused: (problem: ProblemDocument, plan: Plan, saved: Plan) => Plan;
  /** The job is not there any more; what was changed here stays kept in the browser. */
  onGone: (problem: ProblemDocument) => void;
};

type Unsaved = { revision: number; base: Plan; plan: Plan };

const START = "hydrarch.unsaved.";
const RETRY = 3_000;

export class Sync {
  private now: Synced | null = null;
  private sending = false;
  private looking = false;
  private wanted = 0;
  /** A plan whose saving had no answer: the server may have it or not. */
  private unanswered: Plan | null = null;
  /** What pages before this one kept of the job and this one has not taken up yet. */
  private left: string[] = [];

  constructor(private readonly deps: Deps) {}

  get state(): Synced | null {
    return this.now;
  }

  /** Take up a job as the server has it, with what was changed here and not yet saved; done once that is saved, clashes or has to wait. */
  start(view: Pick<JobView, "id" | "revision" | "plan">): Promise<void> {
    this.unanswered = null;
    this.wanted = 0;
    this.now = {
      job: view.id,
      revision: view.revision,
      saved: view.plan,
      plan: view.plan,
      saving: "saved",
      clash: null,
      unkept: false,
    };
    const [mine, old] = [this.key(view.id), START + view.id];
    const there = this.deps.shelf.keys(old).filter((k) => k === old || k.startsWith(`${old}.`));
    this.left = there.sort((a, b) => Number(b === mine) - Number(a === mine) || a.localeCompare(b));
    this.takeUp();
    this.tell();
    return this.push();
  }

  /** Take up what pages before this one kept; what clashes with what is not saved here waits until that is. */
  private takeUp(): void {
    const later: string[] = [];
    for (const key of this.left) {
      const { now } = this;
      if (!now || now.clash) {
        later.push(key);
        continue;
      }
      const left = read(this.deps.shelf, key);
      if (left && now.plan === now.saved) {
        if (left.revision === now.revision) this.put({ plan: left.plan });
        else this.bring(left.base, left.plan, now.saved, now.revision);
      } else if (left) {
        const { plan, both } = merge(left.base, left.plan, now.plan, "mine");
        if (both.length) {
          later.push(key);
          continue;
        }
        this.put({ plan });
      }
      const mine = this.key(now.job);
      if (key !== mine && (this.deps.shelf.get(mine) === null || this.deps.shelf.sure(mine))) this.deps.shelf.drop(key);
    }
    this.left = later;
  }

  private key(job: string): string {
    return `${START}${job}.${this.deps.page}`;
  }

  stop(): void {
    this.now = null;
  }

  /** What was in this page alone may be kept now. */
  keptNow(): void {
    if (!this.now?.unkept) return;
    this.put({ unkept: !this.deps.shelf.sure(this.key(this.now.job)) });
    this.tell();
  }

  /** The plan was changed here. */
  change(plan: Plan): void {
    if (!this.now || plan === this.now.plan) return;
    this.put({ plan });
    this.tell();
    void this.push();
  }

  /** Others saved, up to `revision`. */
  async news(revision: number): Promise<void> {
    const { now } = this;
    this.wanted = Math.max(this.wanted, revision);
    if (!now || this.sending || this.looking || revision <= now.revision) return;
    this.looking = true;
    this.wanted = 0;
    try {
      const view = await this.deps.open(now.job);
      if (this.now?.job === view.id && view.revision > this.now.revision && !this.sending) {
        this.theirs(view.plan, view.revision);
        this.deps.onAnswer(view.answer);
      }
    } catch (error) {
      if (!this.deps.problemOf(error)) throw error;
    } finally {
      this.looking = false;
    }
    void this.push();
    if (this.now?.job === now.job && this.wanted > this.now.revision) await this.news(this.wanted);
  }

  /** A job as it was just answered to this page, as after going back to an earlier revision. */
  took(view: JobView): void {
    if (this.now?.job === view.id) this.theirs(view.plan, view.revision);
  }

  settle(wins: "mine" | "theirs"): Merged | null {
    const clash = this.now?.clash;
    if (!clash) return null;
    const found = merge(clash.base, clash.mine, clash.theirs, wins);
    this.put({ clash: null, saved: clash.theirs, revision: clash.revision, plan: found.plan });
    this.takeUp();
    this.tell();
    void this.push();
    return found;
  }

  /** Send the newest plan; if it changed again meanwhile, send that one after it. */
  async push(): Promise<void> {
    const { now } = this;
    if (this.sending || !now || now.clash || now.plan === now.saved) return;
    const { job, revision, plan, saved: base } = now;
    this.sending = true;
    this.put({ saving: "saving" });
    this.tell();
    try {
      const saved = await this.deps.save(job, revision, plan, base);
      if (this.now?.job !== job) return;
      this.unanswered = null;
      this.put({ revision: saved.revision, saved: plan, saving: "saved" });
      this.takeUp();
      this.deps.onAnswer(saved.answer);
    } catch (error) {
      const problem = this.deps.problemOf(error);
      if (!problem) throw error;
      if (this.now?.job === job) this.failed(problem, plan);
    } finally {
      this.sending = false;
      if (this.now?.job === job) this.tell();
    }
    if (this.now?.saving === "saved" || this.now?.job !== job) await this.push();
  }

  private failed(problem: ProblemDocument, plan: Plan): void {
    const fate = fateOf(problem);
    if (fate.kind === "waits") {
      if (fate.why === "offline" || fate.why === "server") this.unanswered = plan;
      this.put({ saving: fate.why });
      const { now } = this;
      if (now && this.deps.shelf.get(this.key(now.job)) === null) this.put({ unkept: !this.keep(now) }); // somebody cleared it
      this.deps.later(() => void this.push(), RETRY);
    } else if (fate.kind === "gone") {
      this.stop();
      this.deps.onGone(problem);
    } else if (fate.kind === "clash") {
      const { theirs, revision } = problem.extra as unknown as { theirs: Plan; revision: number };
      this.put({ saving: "saved" });
      this.theirs(theirs, revision);
    } else {
      const { now } = this;
      if (now) this.put({ plan: this.deps.onRefused(problem, plan, now.saved), saving: "saved" });
    }
  }

  private theirs(theirs: Plan, revision: number): void {
    const { now } = this;
    if (!now) return;
    if (this.unanswered && same(this.unanswered, theirs)) this.put({ saved: theirs, revision });
    else if (now.plan === now.saved) this.put({ saved: theirs, plan: theirs, revision });
    else this.bring(now.saved, now.plan, theirs, revision);
    this.unanswered = null;
    this.tell();
  }

  private bring(base: Plan, mine: Plan, theirs: Plan, revision: number): void {
    const { plan, both } = merge(base, mine, theirs, "mine");
    if (both.length) this.put({ plan: mine, clash: { base, mine, theirs, revision, both } });
    else this.put({ saved: theirs, plan: same(plan, theirs) ? theirs : plan, revision });
  }

  private put(change: Partial<Synced>): void {
    if (!this.now) return;
    const next = { ...this.now, ...change };
    if (next.plan !== this.now.plan || next.saved !== this.now.saved || next.clash !== this.now.clash)
      next.unkept = !this.keep(next);
    this.now = next;
  }

  /** Keep what is not saved; false where it is in this page alone. */
  private keep({ job, revision, saved, plan, clash }: Synced): boolean {
    const { shelf } = this.deps;
    if (plan === saved) {
      shelf.drop(this.key(job));
      return true;
    }
    const left: Unsaved = { revision, base: clash?.base ?? saved, plan };
    shelf.put(this.key(job), JSON.stringify(left));
    return shelf.sure(this.key(job));
  }

  private tell(): void {
    if (this.now) this.deps.onChange(this.now);
  }
}

/** The drawings of a job that were changed in this browser and are not saved, by the keys they are kept under. */
export const unsavedOf = (shelf: Shelf, job: string): Map<string, Plan> =>
  new Map(
    shelf.keys(START + job).flatMap((key) => {
      const left = key === START + job || key.startsWith(`${START}${job}.`) ? read(shelf, key) : null;
      return left ? [[key, left.plan] as const] : [];
    }),
  );

function read(shelf: Shelf, key: string): Unsaved | null {
  try {
    const left = JSON.parse(shelf.get(key) ?? "null") as Unsaved | null;
    return left?.plan?.points && left.base?.points ? left : null;
  } catch {
    return null;
  }
}

/** The jobs whose drawings were changed in this browser and are not saved. */
export const unsavedJobs = (shelf: Shelf): Set<string> =>
  new Set(shelf.keys(START).map((key) => key.slice(START.length).split(".")[0] ?? ""));
