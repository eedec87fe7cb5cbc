import assert from "node:assert/strict";
import { test } from "node:test";
import {
  boxesMeet,
  fit,
  nearestOn,
  niceStep,
  segmentMeetsBox,
  snap,
  toScreen,
  toWorld,
  usualGrid,
  zoom,
} from "../src/drawing/geometry";
import { placeLabels } from "../src/drawing/labels";
import { bring } from "../src/drawing/snapping";
import { axis, csv, extent, path } from "../src/ui/chart";
import { clockTime, formatter, inchFraction, wait } from "../src/ui/format";
import { reference } from "./plans";

test("a place is brought to the nearest of grid, line and square, and it is said to which", () => {
  const tap = { x: 7.3, y: 4.1, name: "Tap 1" };
  const usual = {
    settings: { grid: 1, angle: false, line: true },
    from: null,
    way: null,
    others: [tap],
    reach: 0.5,
    grid: "1 m",
  };
  assert.deepEqual(bring({ x: 7.25, y: 9.6 }, usual), { at: { x: 7.3, y: 10 }, says: "in line with Tap 1, 1 m grid" });
  assert.deepEqual(bring({ x: 7.05, y: 9.6 }, usual), { at: { x: 7, y: 10 }, says: "1 m grid" });
  assert.deepEqual(bring({ x: 7.2, y: 4.2 }, { ...usual, settings: { grid: null, angle: false, line: true } }), {
    at: { x: 7.3, y: 4.1 },
    says: "in line with Tap 1",
  });
  const off = { ...usual, settings: { grid: 1, angle: false, line: false } };
  assert.deepEqual(bring({ x: 7.25, y: 9.6 }, off), { at: { x: 7, y: 10 }, says: "1 m grid" });
  const way = { x: Math.SQRT1_2, y: Math.SQRT1_2 };
  const square = bring({ x: -1.35, y: 1.45 }, { ...usual, others: [], from: { x: 0, y: 0 }, way });
  assert.equal(square.says, "square to the pipe");
  assert.ok(Math.abs(square.at.x + square.at.y) < 1e-3, "across the way it came");
  assert.ok(Math.abs(Math.hypot(square.at.x, square.at.y) - 2) < 1e-3, "two grid steps away");
  const on = bring({ x: 1.45, y: 1.35 }, { ...usual, others: [], from: { x: 0, y: 0 }, way });
  assert.equal(on.says, "straight on from the pipe");
});

test("a place on the screen is the place in the world it came from, at any zoom", () => {
  let view = fit(
    [
      { x: -40, y: 3 },
      { x: 90, y: 77 },
    ],
    800,
    500,
  );
  for (const factor of [1, 3, 0.2]) {
    view = zoom(view, factor, { x: 200, y: 100 });
    const back = toWorld(view, toScreen(view, { x: 12.5, y: -7 }));
    assert.ok(Math.hypot(back.x - 12.5, back.y + 7) < 1e-9);
  }
});

test("zooming leaves the place under the pointer where it is", () => {
  const view = fit(
    [
      { x: 0, y: 0 },
      { x: 50, y: 50 },
    ],
    600,
    400,
  );
  const before = toWorld(view, { x: 90, y: 250 });
  const after = toWorld(zoom(view, 2.5, { x: 90, y: 250 }), { x: 90, y: 250 });
  assert.ok(Math.hypot(before.x - after.x, before.y - after.y) < 1e-9);
});

test("snapping goes to the grid, and to 45° from the last point", () => {
  assert.deepEqual(snap({ x: 2.4, y: 3.6 }, { grid: 0.5, angle: false }, null), { x: 2.5, y: 3.5 });
  const at = snap({ x: 9.7, y: 0.4 }, { grid: 1, angle: true }, { x: 0, y: 0 });
  assert.deepEqual(at, { x: 10, y: 0 });
  const aslant = snap({ x: 5.2, y: 4.9 }, { grid: null, angle: true }, { x: 0, y: 0 });
  assert.ok(Math.abs(aslant.x - aslant.y) < 1e-9);
});

test("distance from a run, also beyond its end and where it has no length", () => {
  assert.equal(nearestOn({ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 5, y: 3 }).distance, 3);
  assert.equal(nearestOn({ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 13, y: 4 }).distance, 5);
  assert.equal(nearestOn({ x: 1, y: 1 }, { x: 1, y: 1 }, { x: 4, y: 5 }).distance, 5);
});

test("labels cover no other label, and those that must be there are", () => {
  const many = Array.from({ length: 30 }, (_, i) => ({
    key: `p${i}`,
    at: { x: 100 + (i % 6) * 90, y: 60 + Math.floor(i / 6) * 70 },
    reach: 14,
    lines: [`Point ${i}`],
    must: i < 10,
  }));
  const placed = placeLabels(many, [], [], { x: 0, y: 0, w: 800, h: 500 });
  placed.forEach((a, i) => {
    for (const b of placed.slice(i + 1)) assert.equal(boxesMeet(a.box, b.box), false);
  });
  for (const l of many.slice(0, 10)) assert.ok(placed.some((p) => p.key === l.key));
});

test("labels are placed as if each were tried against all, near or far", () => {
  let seed = 7;
  const chance = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  const spot = () => ({ x: chance() * 1100 - 50, y: chance() * 800 - 50 });
  const pipes = Array.from({ length: 120 }, () => [spot(), spot()] as const);
  const discs = pipes.map(([a]) => ({ x: a.x - 13, y: a.y - 13, w: 26, h: 26 }));
  const many = pipes.map(([at], i) => ({
    key: `p${i}`,
    at,
    reach: 17,
    lines: [`Point ${i}`, "0.60 m deep"],
    must: i % 3 === 0,
  }));
  const frame = { x: 4, y: 4, w: 992, h: 692 };
  for (const p of placeLabels(many, pipes, discs, frame)) {
    const covered =
      pipes.filter(([a, b]) => segmentMeetsBox(a, b, p.box)).length + discs.filter((d) => boxesMeet(d, p.box)).length;
    assert.ok(p.must || covered === 0, `${p.key} covers ${covered}`);
  }
});

test("while one thing is dragged all other labels hold still, and none is covered", () => {
  const many = Array.from({ length: 40 }, (_, i) => ({
    key: `p${i}`,
    at: { x: 80 + (i % 8) * 80, y: 60 + Math.floor(i / 8) * 60 },
    reach: 14,
    lines: [`Point ${i}`],
    must: true,
  }));
  const frame = { x: 0, y: 0, w: 800, h: 500 };
  const before = placeLabels(many, [], [], frame);
  const dragged = many.map((l, i) => (i === 3 ? { ...l, at: { x: l.at.x + 95, y: l.at.y + 40 } } : l));
  const after = placeLabels(dragged, [], [], frame, before);
  for (const p of before) {
    if (p.key !== "p3") assert.deepEqual(after.find((a) => a.key === p.key)?.box, p.box);
  }
  after.forEach((a, i) => {
    for (const b of after.slice(i + 1)) assert.equal(boxesMeet(a.box, b.box), false);
  });
});

test("a segment meets a box it crosses, touches within or ends in, and no other", () => {
  const box = { x: 10, y: 10, w: 10, h: 10 };
  assert.ok(segmentMeetsBox({ x: 0, y: 0 }, { x: 30, y: 30 }, box));
  assert.ok(segmentMeetsBox({ x: 15, y: 15 }, { x: 16, y: 16 }, box));
  assert.equal(segmentMeetsBox({ x: 0, y: 30 }, { x: 5, y: 0 }, box), false);
});

test("round steps and ticks", () => {
  assert.equal(niceStep(10, 48), 5);
  const up = axis([0, 10], 100, 0);
  assert.deepEqual(up.ticks, [0, 2, 4, 6, 8, 10]);
  assert.deepEqual([up.at(0), up.at(5), up.at(10)], [100, 50, 0]);
  assert.deepEqual(axis([0, 1], 0, 1).ticks.map(axis([0, 1], 0, 1).words), ["0.0", "0.2", "0.4", "0.6", "0.8", "1.0"]);
  assert.equal(
    path(
      [
        [0, 10],
        [2, 5],
      ],
      (v) => v,
      up.at,
    ),
    "M0,0L2,50",
  );
  assert.deepEqual(extent([{ name: "a", points: [] }], 1, true), [0, 1]);
  assert.deepEqual(
    extent(
      [
        {
          name: "a",
          points: [
            [1, 5],
            [2, 9],
          ],
        },
      ],
      1,
      false,
    ),
    [5, 9],
  );
  assert.equal(csv("flow", [{ name: 'a "b"', points: [[1, 2]] }]), '"line","flow","value"\r\n"a ""b""",1,2\r\n');
});

test("inches are whole, halves, quarters … sixteenths, with their sign", () => {
  assert.deepEqual([0, 0.5, 1.25, -2.0625, 11.999].map(inchFraction), ["0", "1/2", "1-1/4", "-2-1/16", "12"]);
});

test("numbers are set in a job's units, and a missing one as a dash", () => {
  const [us, metric] = [formatter(reference.quantities, "us"), formatter(reference.quantities, "metric")];
  assert.equal(metric(300_000, "pressure"), "3.00 bar");
  assert.equal(us(300_000, "pressure"), "43.5 psi");
  assert.equal(metric(null, "pressure"), "–");
  assert.equal(us(0.3048 * 100, "cut"), "100 ft");
  assert.equal(us(0.0254 * 5.5, "cut"), "5-1/2 in");
});

test("an emitter's flow is told by the hour and a well's depth in feet, also where the column has another unit", () => {
  const us = formatter(reference.quantities, "us");
  const hourly = (8 * 3.785411784e-3) / 3600;
  assert.equal(us(hourly, "flow"), "8.0 gal/h");
  assert.equal(us.bare(hourly, "flow"), "8.0 gal/h");
  assert.equal(us.bare(hourly * 60, "flow"), "8.0");
  assert.equal(us(60.96, "depth"), "200.0 ft");
  assert.equal(us(0.4572, "depth"), "18 in");
});

test("the grid of a job is in its own units", () => {
  assert.equal(usualGrid("us"), 0.3048);
  assert.deepEqual(
    [usualGrid("metric"), usualGrid("metric", 20), usualGrid("metric", 4), usualGrid("us", 8), usualGrid("us", 0.1)],
    [1, 0.5, 0.1, 6 * 0.0254, 0.01],
  );
  assert.deepEqual(snap({ x: 2, y: 0.2 }, { grid: usualGrid("us"), angle: false }, null), { x: 2.1336, y: 0.3048 });
});

test("waits and times are told as a crew says them", () => {
  assert.deepEqual([5, 65, 120, 3700, 90_000 * 3].map(wait), [
    "5 s",
    "1 min 05 s",
    "2 min",
    "1 h 01 min",
    "3 days 3 h",
  ]);
  assert.match(clockTime(Date.now() / 1000), /^\d\d?:\d\d/);
});
