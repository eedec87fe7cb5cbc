import assert from "node:assert/strict";
import { test } from "node:test";
import { type Boxed, Outbox } from "../src/api/outbox";
import type { Answered, ProblemDocument, Said } from "../src/api/types";
import { Store } from "./plans";

const event = (id: string): Said => ({
  id,
  kind: "made",
  at: 1,
  by: "Ash",
  joints: [`J-${id}`],
  override: "",
  note: "",
});
const problem = (status: number, type = "/problems/gate"): ProblemDocument => ({
  type,
  title: "No",
  status,
  detail: "It is not so.",
  mend: "",
  places: [],
  extra: {},
});

class Failed extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}

type Answer = (ids: string[]) => Record<string, ProblemDocument | null> | Failed;

/** An outbox with a server that answers as told, and a clock that stands. */
function made(answer: Answer, store = new Store()) {
  const seen: string[][] = [];
  const later: (() => void)[] = [];
  let box: Boxed = { waiting: [], refused: [], trouble: null, unkept: false, clock: 0 };
  const clock = { now: 0 };
  const outbox = new Outbox({
    shelf: store,
    send: async (_job, events) => {
      const ids = events.map((e) => e.id);
      seen.push(ids);
      const told = answer(ids);
      if (told instanceof Failed) throw told;
      return {
        events: ids.flatMap((id) => (id in told ? [{ id, kept: told[id] === null, problem: told[id] ?? null }] : [])),
        standing: {} as Answered["standing"],
        clock: 0,
      };
    },
    problemOf: (error) => (error instanceof Failed ? error.problem : null),
    now: () => clock.now,
    later: (act) => void later.push(act),
    onChange: (next) => {
      box = next;
    },
    onAnswer: () => {},
  });
  return { outbox, seen, later, store, clock, box: () => box };
}

const all = (told: ProblemDocument | null) => (ids: string[]) => Object.fromEntries(ids.map((id) => [id, told]));

test("what the server keeps is gone from the outbox", async () => {
  const { outbox, box, store } = made(all(null));
  assert.deepEqual([...(await outbox.say("job", [event("a")], "make"))], [["a", null]]);
  assert.deepEqual([box().waiting, box().refused, store.keys("hydrarch.said.")], [[], [], []]);
});

test("one that is refused blocks and drops no other, and stays in sight with why", async () => {
  const { outbox, box } = made((ids) => Object.fromEntries(ids.map((id) => [id, id === "bad" ? problem(409) : null])));
  const told = await outbox.say("job", [event("bad"), event("good")], "make");
  assert.equal(told.get("good"), null);
  assert.equal(told.get("bad")?.status, 409);
  assert.deepEqual(
    box().refused.map((e) => [e.event.id, e.refused?.detail]),
    [["bad", "It is not so."]],
  );
  assert.deepEqual(box().waiting, []);
});

test("after a reload the refused one is still there, and is not sent again by itself", async () => {
  const store = new Store();
  await made(all(problem(409)), store).outbox.say("job", [event("bad")], "make");
  const later = made(all(null), store);
  await later.outbox.send(true);
  assert.deepEqual([later.seen, later.outbox.boxed().refused.length], [[], 1]);
});

test("a refused one is discarded, or sent about another joint", async () => {
  const answers = [problem(409), null];
  const { outbox, seen } = made((ids) => all(answers.shift() ?? null)(ids));
  await outbox.say("job", [event("a")], "make");
  await outbox.again("a", ["J-other"]);
  assert.deepEqual([outbox.boxed().refused, seen.length], [[], 2]);
  const other = made(all(problem(422)));
  await other.outbox.say("job", [event("b")], "make");
  other.outbox.discard("b");
  assert.deepEqual(other.outbox.entries(), []);
});

for (const [status, kind] of [
  [0, "offline"],
  [401, "locked"],
  [429, "busy"],
  [500, "server"],
  [503, "server"],
  [200, "server"], // a page that is no answer of ours
  [400, "server"],
  [404, "server"],
  [408, "server"],
  [413, "server"],
  [422, "server"],
  [425, "server"],
] as const)
  test(`an answer ${status} keeps the event, and is told as ${kind}`, async () => {
    let down = true;
    const { outbox, box, clock, later } = made((ids) =>
      down ? new Failed(problem(status, "/problems/x")) : all(null)(ids),
    );
    assert.equal((await outbox.say("job", [event("a")], "make")).size, 0);
    assert.deepEqual([box().waiting.length, box().refused.length, box().trouble?.kind], [1, 0, kind]);
    assert.equal(box().trouble?.says.includes("no signal"), kind === "offline");
    assert.equal(later.length, 1);
    await outbox.send();
    assert.equal(box().waiting.length, 1, "it waits before it tries again");
    [down, clock.now] = [false, 1e9];
    await outbox.send();
    assert.deepEqual([box().waiting, box().trouble], [[], null]);
  });

test("a batch the server turns down whole is sent one by one", async () => {
  const { outbox, seen } = made((ids) =>
    ids.length > 1 ? new Failed(problem(413)) : all(ids[0] === "b" ? problem(422) : null)(ids),
  );
  await outbox.say("job", [event("a"), event("b"), event("c")], "make");
  assert.deepEqual(seen, [["a", "b", "c"], ["a"], ["b"], ["c"]]);
  assert.deepEqual(
    outbox.entries().map((e) => e.event.id),
    ["b"],
  );
});

test("a job that is gone takes its own events only", async () => {
  const { outbox } = made(all(null));
  const store = new Store();
  const two = made(() => new Failed(problem(404, "/problems/not-there")), store);
  await two.outbox.say("gone", [event("a")], "make");
  assert.deepEqual(
    two.outbox.boxed().refused.map((e) => e.job),
    ["gone"],
  );
  await outbox.say("here", [event("b")], "make");
  assert.deepEqual(outbox.entries(), []);
});

test("a full storage keeps the event in the page, says so, and sends it", async () => {
  let down = true;
  const { outbox, box } = made((ids) => (down ? new Failed(problem(0)) : all(null)(ids)), new Store(10));
  await outbox.say("job", [event("a")], "make");
  assert.deepEqual([box().waiting.length, box().unkept], [1, true]);
  down = false;
  await outbox.send(true);
  assert.deepEqual([box().waiting.length, box().unkept], [0, false]);
});

test("what an older page kept for a job is taken over", async () => {
  const store = new Store();
  store.put("hydrarch.queue.yard", JSON.stringify([event("a"), event("b")]));
  const { outbox, seen } = made(all(null), store);
  await outbox.send(true);
  assert.deepEqual([seen, store.keys("hydrarch.said.")], [[["a", "b"]], []]);
});

test("an event the server does not speak of is kept", async () => {
  const { outbox } = made(() => ({}));
  await outbox.say("job", [event("a")], "make");
  assert.equal(outbox.boxed().waiting.length, 1);
});

test("each of two pages puts back what it said where the shelf was cleared under both", async () => {
  const store = new Store();
  const down: Answer = () => new Failed(problem(0));
  const [one, two] = [made(down, store), made(down, store)];
  await one.outbox.say("job", [event("a")], "make");
  await two.outbox.say("job", [event("b")], "make");
  for (const key of store.keys("")) store.drop(key);
  one.outbox.entries();
  two.outbox.entries();
  assert.deepEqual(store.keys("hydrarch.said.").sort(), ["hydrarch.said.a", "hydrarch.said.b"]);
});

test("what was said is put back where the shelf was cleared, and arrives; what another page has sent is not sent again", async () => {
  let up = false;
  const answer: Answer = (ids) => (up ? Object.fromEntries(ids.map((id) => [id, null])) : new Failed(problem(0)));
  const one = made(answer);
  await one.outbox.say("job", [event("a")], "make");
  assert.equal(one.box().waiting.length, 1);
  for (const key of one.store.keys("")) one.store.drop(key);
  assert.deepEqual(
    one.outbox.entries().map((e) => e.event.id),
    ["a"],
  );
  assert.deepEqual(one.store.keys("hydrarch.said."), ["hydrarch.said.a"]);
  const two = made(answer, one.store);
  up = true;
  await two.outbox.send(true);
  const before = one.seen.length;
  await one.outbox.send(true);
  assert.deepEqual([one.seen.length - before, one.outbox.entries()], [0, []]);
});

test("a job the server fails over holds back no other", async () => {
  const sick = new Failed(problem(500, "about:blank"));
  const { outbox, box } = made((ids) => (ids.some((id) => id.startsWith("sick")) ? sick : all(null)(ids)));
  await outbox.say("one", [event("sick-1")], "make");
  await outbox.say("two", [event("well-1")], "make");
  await outbox.say("three", [event("well-2")], "make");
  assert.deepEqual([box().waiting.map((e) => e.event.id), box().trouble?.kind], [["sick-1"], "server"]);
});

test("after three failures the events of a job are sent one by one, and the sick one alone waits", async () => {
  const sick = new Failed(problem(500, "about:blank"));
  const { outbox, box, clock, seen } = made((ids) => (ids.includes("b") ? sick : all(null)(ids)));
  await outbox.say("job", [event("a"), event("b"), event("c")], "make");
  for (let n = 1; n <= 3; n++) {
    clock.now = n * 1e9;
    await outbox.send();
  }
  assert.deepEqual(
    box().waiting.map((e) => e.event.id),
    ["b"],
  );
  assert.deepEqual(seen.slice(-3), [["a"], ["b"], ["c"]]);
});
