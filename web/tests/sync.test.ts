import assert from "node:assert/strict";
import { test } from "node:test";
import { uuid } from "../src/api/id";
import type { JobView, Plan, ProblemDocument, Saved, StageAnswer } from "../src/api/types";
import { changePoint } from "../src/job/edits";
import { Sync, type Synced } from "../src/job/sync";
import { empty, point, run, Store } from "./plans";

const base: Plan = {
  ...empty,
  points: [point("K1", "tank"), point("T1", "tap", 9)],
  runs: [run("R1", "K1", "T1", ["out", "in"])],
};
const named = (plan: Plan, id: string, name: string) => changePoint(plan, id, { name });
const nameOf = (plan: Plan | undefined, id: string) => plan?.points.find((p) => p.id === id)?.name;

class Failed extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}
const problem = (status: number, type = "/problems/x", extra: object = {}): ProblemDocument => ({
  type,
  title: "No",
  status,
  detail: "",
  mend: "",
  places: [],
  extra: extra as ProblemDocument["extra"],
});

/** A server with one job, as the page sees it: revisions, clashes, answers that get lost. */
class Server {
  plan = base;
  revision = 1;
  down = false;
  loses = false;
  /** A status somebody on the way answers, instead of us. */
  answers = 0;
  refuses: (plan: Plan) => boolean = () => false;
  saves = 0;

  view = (): JobView => ({ id: "job", revision: this.revision, plan: this.plan, left_out: [], answer: this.answer() });
  answer = () => ({ stage: "survey", revision: this.revision }) as StageAnswer;

  save = async (_job: string, revision: number, plan: Plan): Promise<Saved> => {
    this.saves += 1;
    if (this.down) throw new Failed(problem(0));
    if (this.refuses(plan)) throw new Failed(problem(422, "/problems/invalid"));
    if (this.answers) throw new Failed(problem(this.answers));
    const again = JSON.stringify(plan) === JSON.stringify(this.plan);
    if (revision !== this.revision && !again)
      throw new Failed(problem(409, "/problems/clash", { theirs: this.plan, revision: this.revision }));
    if (!again) [this.plan, this.revision] = [structuredClone(plan), this.revision + 1];
    if (this.loses) throw new Failed(problem(0));
    return { id: "job", revision: this.revision, answer: this.answer() };
  };

  others(change: (plan: Plan) => Plan) {
    [this.plan, this.revision] = [change(this.plan), this.revision + 1];
  }
}

function made(server: Server, shelf = new Store(), page = uuid()) {
  const later: (() => void)[] = [];
  const gone: ProblemDocument[] = [];
  const notices: ProblemDocument[] = [];
  let now: Synced | null = null;
  const sync = new Sync({
    save: server.save,
    open: async () => server.view(),
    page,
    problemOf: (error) => (error instanceof Failed ? error.problem : null),
    shelf,
    later: (act) => void later.push(act),
    onChange: (next) => {
      now = next;
    },
    onAnswer: () => {},
    onRefused: (told, _plan, saved) => {
      notices.push(told);
      return saved;
    },
    onGone: (told) => void gone.push(told),
  });
  sync.start(server.view());
  return { sync, later, shelf, gone, notices, now: () => now as Synced | null };
}

const settled = () => new Promise((resolve) => setTimeout(resolve, 5));

test("a change is saved; one made meanwhile after it", async () => {
  const server = new Server();
  const { sync, now } = made(server);
  sync.change(named(base, "T1", "Tap"));
  sync.change(named(sync.state?.plan ?? base, "K1", "Tank"));
  await settled();
  assert.deepEqual([server.saves, server.revision, now()?.saving], [2, 3, "saved"]);
  assert.deepEqual([nameOf(server.plan, "T1"), nameOf(server.plan, "K1")], ["Tap", "Tank"]);
});

test("what others saved is brought together with what was changed here, without a word", async () => {
  const server = new Server();
  const { sync, now } = made(server);
  server.others((p) => named(p, "K1", "Their tank"));
  sync.change(named(base, "T1", "My tap"));
  await settled();
  assert.equal(now()?.clash, null);
  assert.deepEqual([nameOf(server.plan, "K1"), nameOf(server.plan, "T1")], ["Their tank", "My tap"]);
});

test("where both changed the same a person is asked, and what they say is saved", async () => {
  for (const wins of ["mine", "theirs"] as const) {
    const server = new Server();
    const { sync, now } = made(server);
    server.others((p) => named(named(p, "T1", "Theirs"), "K1", "Their tank"));
    sync.change(named(base, "T1", "Mine"));
    await settled();
    assert.deepEqual(now()?.clash?.both, ["T1"]);
    sync.settle(wins);
    await settled();
    assert.equal(nameOf(server.plan, "T1"), wins === "mine" ? "Mine" : "Theirs");
    assert.equal(nameOf(server.plan, "K1"), "Their tank");
    assert.equal(now()?.saving, "saved");
  }
});

test("a save whose answer was lost is no clash with oneself, also when one went on drawing", async () => {
  const server = new Server();
  const { sync, now, later } = made(server);
  server.loses = true;
  sync.change(named(base, "T1", "First"));
  await settled();
  assert.deepEqual([now()?.saving, server.revision], ["offline", 2]);
  sync.change(named(sync.state?.plan ?? base, "T1", "Second"));
  server.loses = false;
  later.pop()?.();
  await settled();
  assert.deepEqual([now()?.clash, now()?.saving, nameOf(server.plan, "T1")], [null, "saved", "Second"]);
});

test("a change not yet taken survives a reload", async () => {
  const server = new Server();
  server.down = true;
  const { sync, shelf, now } = made(server);
  sync.change(named(base, "T1", "Kept"));
  await settled();
  assert.equal(now()?.saving, "offline");
  server.down = false;
  const next = made(server, shelf);
  await settled();
  assert.deepEqual([nameOf(server.plan, "T1"), next.now()?.saving], ["Kept", "saved"]);
  assert.deepEqual(shelf.keys("hydrarch.unsaved."), []);
});

test("and is brought together with what others saved before the reload", async () => {
  const server = new Server();
  server.down = true;
  const { sync, shelf } = made(server);
  sync.change(named(base, "T1", "Kept"));
  await settled();
  server.others((p) => named(p, "K1", "Their tank"));
  server.down = false;
  made(server, shelf);
  await settled();
  assert.deepEqual([nameOf(server.plan, "T1"), nameOf(server.plan, "K1")], ["Kept", "Their tank"]);
});

test("a change the server refuses is told and taken back, and nothing waits", async () => {
  const server = new Server();
  server.refuses = (p) => nameOf(p, "T1") === "Bad";
  const { sync, now, notices } = made(server);
  sync.change(named(base, "T1", "Bad"));
  await settled();
  assert.equal(notices.length, 1);
  assert.deepEqual([nameOf(now()?.plan, "T1"), now()?.saving], ["", "saved"]);
});

for (const status of [200, 400, 404, 408, 413, 422, 425, 502])
  test(`an answer ${status} that is not ours refuses nothing: the drawing stays, waits, and is saved`, async () => {
    const server = new Server();
    server.answers = status;
    const { sync, later, now, notices, gone } = made(server);
    sync.change(named(base, "T1", "Drawn"));
    await settled();
    assert.deepEqual([now()?.saving, nameOf(now()?.plan, "T1")], ["server", "Drawn"]);
    assert.deepEqual([notices, gone], [[], []]);
    server.answers = 0;
    later.pop()?.();
    await settled();
    assert.deepEqual([now()?.saving, nameOf(server.plan, "T1")], ["saved", "Drawn"]);
  });

test("a storage that is full is told", async () => {
  const server = new Server();
  server.down = true;
  const { sync, now } = made(server, new Store(5));
  sync.change(named(base, "T1", "Only here"));
  await settled();
  assert.equal(now()?.unkept, true);
});

test("news of others is fetched once, and again where more came meanwhile", async () => {
  const server = new Server();
  const { sync, now } = made(server);
  server.others((p) => named(p, "K1", "One"));
  const first = sync.news(2);
  server.others((p) => named(p, "K1", "Two"));
  await Promise.all([first, sync.news(3)]);
  await settled();
  assert.deepEqual([now()?.revision, nameOf(now()?.plan, "K1")], [3, "Two"]);
});

test("a job that is gone is told, and what was changed stays kept", async () => {
  const server = new Server();
  const { sync, gone, shelf } = made(server);
  server.save = async () => {
    throw new Failed(problem(404, "/problems/not-there"));
  };
  const other = new Sync({
    save: server.save,
    open: async () => server.view(),
    page: "other",
    problemOf: (error) => (error instanceof Failed ? error.problem : null),
    shelf,
    later: () => {},
    onChange: () => {},
    onAnswer: () => {},
    onRefused: (_told, _plan, saved) => saved,
    onGone: (told) => void gone.push(told),
  });
  sync.stop();
  other.start(server.view());
  other.change(named(base, "T1", "Late"));
  await settled();
  assert.equal(gone.length, 1);
  assert.equal(shelf.keys("hydrarch.unsaved.").length, 1);
});

test("two tabs of one phone with no signal keep each what it drew: one opened later has both, and both are saved", async () => {
  const server = new Server();
  const shelf = new Store();
  const [one, two] = [made(server, shelf), made(server, shelf)];
  server.down = true;
  one.sync.change(named(base, "T1", "First tab"));
  two.sync.change(named(base, "K1", "Second tab"));
  await settled();
  assert.equal(shelf.keys("hydrarch.unsaved.").length, 2);
  const later = made(server, shelf);
  await settled();
  assert.deepEqual([nameOf(later.now()?.plan, "T1"), nameOf(later.now()?.plan, "K1")], ["First tab", "Second tab"]);
  assert.equal(shelf.keys("hydrarch.unsaved.").length, 1);
  server.down = false;
  later.later.pop()?.();
  await settled();
  assert.deepEqual([nameOf(server.plan, "T1"), nameOf(server.plan, "K1")], ["First tab", "Second tab"]);
  assert.deepEqual([shelf.keys("hydrarch.unsaved."), later.now()?.clash], [[], null]);
  one.later.pop()?.(); // the first tab, still open, says the same again
  await settled();
  assert.deepEqual([one.now()?.clash, one.now()?.saving, nameOf(server.plan, "K1")], [null, "saved", "Second tab"]);
});

test("where two tabs drew the same thing otherwise, the second waits until the first is saved, and then a person is asked", async () => {
  const server = new Server();
  const shelf = new Store();
  const [one, two] = [made(server, shelf, "a"), made(server, shelf, "b")];
  server.down = true;
  one.sync.change(named(base, "T1", "First tab"));
  two.sync.change(named(base, "T1", "Second tab"));
  await settled();
  const later = made(server, shelf, "c");
  await settled();
  assert.deepEqual([nameOf(later.now()?.plan, "T1"), later.now()?.clash], ["First tab", null]);
  assert.deepEqual(shelf.keys("hydrarch.unsaved.job.b"), ["hydrarch.unsaved.job.b"]);
  server.down = false;
  later.later.pop()?.();
  await settled();
  assert.deepEqual(later.now()?.clash?.both, ["T1"]);
  assert.deepEqual(
    [nameOf(later.now()?.clash?.theirs, "T1"), nameOf(later.now()?.clash?.mine, "T1")],
    ["First tab", "Second tab"],
  );
  later.sync.settle("mine");
  await settled();
  assert.deepEqual([nameOf(server.plan, "T1"), shelf.keys("hydrarch.unsaved.")], ["Second tab", []]);
});

test("what an earlier page kept under the job's name alone is taken up", async () => {
  const server = new Server();
  const shelf = new Store();
  shelf.put("hydrarch.unsaved.job", JSON.stringify({ revision: 1, base, plan: named(base, "T1", "Kept") }));
  shelf.put(
    "hydrarch.unsaved.job-2.x",
    JSON.stringify({ revision: 1, base, plan: named(base, "K1", "Of another job") }),
  );
  made(server, shelf);
  await settled();
  assert.deepEqual([nameOf(server.plan, "T1"), nameOf(server.plan, "K1")], ["Kept", ""]);
  assert.deepEqual(shelf.keys("hydrarch.unsaved."), ["hydrarch.unsaved.job-2.x"]);
});

test("what was cleared under the page is kept again while it waits", async () => {
  const server = new Server();
  server.down = true;
  const { sync, shelf, later } = made(server);
  sync.change(named(base, "T1", "Kept"));
  await settled();
  for (const key of shelf.keys("")) shelf.drop(key);
  later.pop()?.();
  await settled();
  assert.equal(shelf.keys("hydrarch.unsaved.").length, 1);
});
