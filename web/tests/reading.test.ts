import assert from "node:assert/strict";
import { test } from "node:test";
import { inTurn, isReading, press, pressesDone, reading } from "../src/ui/reading";

const later = () => new Promise<void>((done) => setTimeout(done, 5));

/** Wait until something holds, as long as it takes. */
async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await later();
}

/** Something that is being read, and what answers it. */
function slow(): (read: boolean) => void {
  let answer: (read: boolean) => void = () => {};
  reading(
    new Promise<boolean>((done) => {
      answer = done;
    }),
  );
  return answer;
}

test("a press waits for what was typed before it, and not for what is typed after it; what is picked meanwhile comes after", async () => {
  const did: string[] = [];
  const first = slow();
  press(() => did.push("press"));
  inTurn(() => did.push("pick"));
  const second = slow();
  await later();
  assert.deepEqual([did, isReading()], [[], true]);
  first(true);
  await until(() => pressesDone() === null);
  assert.deepEqual([did, pressesDone()], [["press", "pick"], null]);
  second(true);
  await until(() => !isReading());
  assert.equal(isReading(), false);
});

test("presses are done in their order, and one that meant what cannot be read is not done", async () => {
  const did: string[] = [];
  const bad = slow();
  press(() => did.push("first"));
  bad(false);
  await until(() => !isReading());
  const good = slow();
  press(() => did.push("second"));
  good(true);
  await until(() => !isReading());
  assert.deepEqual(did, ["second"]);
  inTurn(() => did.push("at once"));
  assert.deepEqual(did, ["second", "at once"]);
});
