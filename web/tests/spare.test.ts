import assert from "node:assert/strict";
import { test } from "node:test";
import { Spare } from "../src/api/spare";
import { Store } from "./plans";

/** A second shelf that answers when it is told to. */
function second(works = true) {
  const there = new Map<string, string>();
  const asked: (() => void)[] = [];
  return {
    there,
    answer: async () => {
      for (const act of asked.splice(0)) act();
      await new Promise((done) => setTimeout(done));
    },
    all: async () => [...there],
    put: (key: string, text: string) =>
      new Promise<boolean>((done) =>
        asked.push(() => {
          if (works) there.set(key, text);
          done(works);
        }),
      ),
    drop: async (key: string) => void there.delete(key),
  };
}

test("what the first shelf takes is there at once, and the second has nothing of it", async () => {
  const [first, other] = [new Store(), second()];
  const both = new Spare(first, other);
  assert.equal(both.put("a", "1"), true);
  assert.deepEqual([both.get("a"), both.sure("a"), both.keys("")], ["1", true, ["a"]]);
  await other.answer();
  assert.equal(other.there.size, 0);
});

test("what it will not take is on the second once that has answered, and a later page finds it there", async () => {
  const [first, other] = [new Store(3), second()];
  let told = 0;
  const both = new Spare(first, other, () => {
    told += 1;
  });
  both.put("a", "old");
  assert.equal(both.put("a", "newer"), false);
  assert.deepEqual([both.get("a"), both.sure("a"), first.get("a")], ["newer", false, "old"]);
  await other.answer();
  assert.deepEqual([both.sure("a"), told, first.get("a"), both.keys("")], [true, 1, null, ["a"]]);
  const later = new Spare(first, other);
  assert.equal(later.get("a"), null);
  await later.ready();
  assert.deepEqual([later.get("a"), later.sure("a")], ["newer", true]);
  later.drop("a");
  assert.deepEqual([later.get("a"), later.keys(""), other.there.size], [null, [], 0]);
});

test("where neither takes it, it is never called kept", async () => {
  const [first, other] = [new Store(0), second(false)];
  const both = new Spare(first, other);
  both.put("a", "1");
  await other.answer();
  assert.deepEqual([both.get("a"), both.sure("a")], ["1", false]);
});

test("what was changed while the second was asked is not taken for kept", async () => {
  const [first, other] = [new Store(0), second()];
  const both = new Spare(first, other);
  both.put("a", "1");
  both.put("a", "2");
  first.room = 10;
  both.put("b", "x");
  await other.answer();
  assert.deepEqual([both.get("a"), both.sure("a"), both.sure("b")], ["2", true, true]);
  both.put("a", "3");
  assert.deepEqual([both.get("a"), both.sure("a"), first.get("a"), other.there.has("a")], ["3", true, "3", false]);
});

test("what both have is the first's, which had room again later", async () => {
  const [first, other] = [new Store(), second()];
  first.put("a", "new");
  other.there.set("a", "old");
  const both = new Spare(first, other);
  await both.ready();
  assert.equal(both.get("a"), "new");
  assert.equal(other.there.size, 0);
});
