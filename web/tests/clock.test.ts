import assert from "node:assert/strict";
import { test } from "node:test";

/** A device whose clock is set by hand, and whose second clock only runs. */
const device = { wall: 1_700_000_000_000, tick: 0 };
const go = (seconds: number) => {
  device.wall += seconds * 1000;
  device.tick += seconds * 1000;
};
Date.now = () => device.wall;
performance.now = () => device.tick;
const { clockOff, heardClock, rightNow } = await import("../src/api/clock");
const told = (time: number) =>
  heardClock({ headers: new Headers({ Date: new Date(time).toUTCString() }) } as Response, device.wall);

test("a clock that is set back while the page is open is noticed, with the server never heard and with it heard", () => {
  assert.equal(clockOff(), null);
  go(600);
  assert.equal(clockOff(), null);
  device.wall -= 10_800_000; // three hours back
  assert.ok(Math.abs((clockOff() ?? 0) - 10_800) < 1);
  assert.ok(Math.abs(rightNow() - 1_700_000_600) < 1);
  device.wall += 10_800_000; // and right again
  assert.equal(clockOff(), null);
  told(device.wall);
  assert.equal(clockOff(), 0);
  go(60);
  device.wall -= 3_600_000;
  assert.ok(Math.abs((clockOff() ?? 0) - 3600) < 1);
  told(device.wall + 3_600_000);
  assert.ok(Math.abs((clockOff() ?? 0) - 3600) < 2);
  device.wall += 3_600_000; // put right with no word from the server: it is ahead of what it was told, as after a sleep
  assert.ok(Math.abs((clockOff() ?? 0) - 3600) < 2);
});

test("a sleep of the device, in which the second clock stands, is no jump", () => {
  told(device.wall);
  device.wall += 8 * 3_600_000;
  assert.equal(clockOff(), 0);
});

test("a time that was typed is right already: what the server adds for a wrong clock was taken off before", async () => {
  const { newEvent } = await import("../src/job/newEvent");
  told(device.wall + 7_200_000);
  const start = rightNow() - 3600;
  const typed = newEvent("tested", { at: start, ended: start + 1800, section: "A", pressure: 1e6, passed: true });
  const off = typed.device_off ?? 0;
  assert.ok(Math.abs(off - 7200) < 2);
  assert.ok(Math.abs(typed.at + off - start) < 0.01);
  assert.ok(Math.abs((typed.ended ?? 0) + off - start - 1800) < 0.01);
  assert.equal(typed.page, undefined); // its second clock says when it was typed, not when it was
  const now = newEvent("made", { joints: ["J"] });
  assert.ok(Math.abs(now.at + (now.device_off ?? 0) - rightNow()) < 1);
  assert.ok(now.page);
});
