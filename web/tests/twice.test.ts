import assert from "node:assert/strict";
import { test } from "node:test";
import { Twice } from "../src/api/twice";
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

test("what the first shelf takes is there at once, and the second has it a moment later; what is dropped is dropped from both", async () => {
  const [first, other] = [new Store(), second()];
  const both = new Twice(first, other);
  assert.equal(both.put("a", "1"), true);
  assert.deepEqual([both.get("a"), both.sure("a"), both.keys("")], ["1", true, ["a"]]);
  await other.answer();
  assert.deepEqual([...other.there], [["a", "1"]]);
  both.drop("a");
  await other.answer();
  assert.deepEqual([both.get("a"), other.there.size, first.keys("")], [null, 0, []]);
});

test("the first shelf cleared, or never written to the disk, a later page finds all on the second", async () => {
  const [first, other] = [new Store(), second()];
  const both = new Twice(first, other);
  both.put("a", "1");
  both.put("b", "2");
  await other.answer();
  const later = new Twice(new Store(), other);
  await later.ready();
  assert.deepEqual([later.get("a"), later.get("b"), later.sure("a")], ["1", "2", true]);
});

test("of what is changed in a hurry the second is told the newest alone, and a drop is not overtaken", async () => {
  const [first, other] = [new Store(), second()];
  const both = new Twice(first, other);
  for (const text of ["1", "2", "3"]) both.put("a", text);
  await other.answer();
  assert.equal(other.there.get("a"), "1");
  await other.answer();
  assert.equal(other.there.get("a"), "3");
  both.put("a", "4");
  both.drop("a");
  await other.answer();
  assert.deepEqual([other.there.size, both.keys("")], [0, []]);
});

test("what it will not take is on the second once that has answered, and a later page finds it there", async () => {
  const [first, other] = [new Store(3), second()];
  let told = 0;
  const both = new Twice(first, other, () => {
    told += 1;
  });
  both.put("a", "old");
  assert.equal(both.put("a", "newer"), false);
  assert.deepEqual([both.get("a"), both.sure("a"), first.get("a")], ["newer", false, "old"]);
  await other.answer();
  assert.equal(both.sure("a"), false); // it has the old one
  await other.answer();
  assert.deepEqual([both.sure("a"), told, first.get("a"), both.keys("")], [true, 1, null, ["a"]]);
  const later = new Twice(first, other);
  assert.equal(later.get("a"), null);
  await later.ready();
  assert.deepEqual([later.get("a"), later.sure("a")], ["newer", true]);
  later.drop("a");
  await other.answer();
  assert.deepEqual([later.get("a"), later.keys(""), other.there.size], [null, [], 0]);
});

test("where neither takes it, it is never called kept", async () => {
  const [first, other] = [new Store(0), second(false)];
  const both = new Twice(first, other);
  both.put("a", "1");
  await other.answer();
  assert.deepEqual([both.get("a"), both.sure("a")], ["1", false]);
});

test("what was changed while the second was asked is not taken for kept", async () => {
  const [first, other] = [new Store(0), second()];
  const both = new Twice(first, other);
  both.put("a", "1");
  both.put("a", "2");
  first.room = 10;
  both.put("b", "x");
  await other.answer();
  assert.deepEqual([both.get("a"), both.sure("a"), both.sure("b")], ["2", false, true]);
  await other.answer();
  assert.deepEqual([both.sure("a"), first.get("a")], [true, null]);
  both.put("a", "3");
  assert.deepEqual([both.get("a"), both.sure("a"), first.get("a")], ["3", true, "3"]);
});

test("what both have is the first's, which is told at once; the second has the same again", async () => {
  const [first, other] = [new Store(), second()];
  first.put("a", "new");
  first.put("b", "of an older page");
  other.there.set("a", "old");
  const both = new Twice(first, other);
  await both.ready();
  assert.equal(both.get("a"), "new");
  await other.answer();
  assert.deepEqual([...other.there].sort(), [
    ["a", "new"],
    ["b", "of an older page"],
  ]);
});
