import assert from "node:assert/strict";
import { test } from "node:test";
import type { Entry } from "../src/api/outbox";
import type { JointState, Procedures, Said, Standing } from "../src/api/types";
import { folded } from "../src/job/folded";

const NOW = 1_000_000;
const open = { open: true, why: "", from_time: null };

const joint = (name: string, state: JointState["state"], more: Partial<JointState> = {}): JointState => ({
  joint: name,
  state,
  by: "Ash",
  looked_over: false,
  at: NOW - 9e4,
  set_at: null,
  cured_at: null,
  matches: true,
  overrides: [],
  ...more,
  proved: more.proved ?? false,
  purpose: more.purpose ?? "",
  others: more.others ?? [],
  event: more.event ?? "",
  clash: more.clash ?? "",
  level_by: more.level_by ?? "",
  covered: more.covered ?? false,
  times: more.times ?? 1,
  rushed: more.rushed ?? false,
});

const section = (id: string, joints: string[]) => ({ id, joints, later: [] as string[] });
const state = (id: string) => ({
  section: id,
  unmade: [],
  dry: [],
  curing: [],
  proved: true,
  buried: false,
  fill: open,
  pressurise: open,
  bury: open,
  tests: [],
  overrides: [],
});

const standing = (joints: JointState[]): Standing =>
  ({
    readiness: {
      now: NOW,
      joints: Object.fromEntries(joints.map((j) => [j.joint, j])),
      sections: { S1: state("S1"), S2: state("S2") },
      hand_over: { done: true, says: ["2 made and tested"] },
    },
    zones: [],
    clocks: [],
  }) as unknown as Standing;

const cure = { set: 120, handle: 900, fill: 3600, cure: 7200, says: "", source: "" };
const procedures = {
  kinds: [{ joint: "", method: "solvent weld", tools: "", steps: [], cautions: [], wait: "", cure }],
  of: { A: 0, B: 0, C: 0 },
} as unknown as Procedures;

let count = 0;
const said = (kind: Said["kind"], joints: string[], at: number, more: Partial<Said> = {}): Entry => {
  count += 1;
  const event: Said = { id: `e${count}`, kind, at, by: "Rowan", joints, override: "", note: "", ...more };
  return { job: "J", event, refused: null };
};
const parts = [section("S1", ["A", "B"]), section("S2", ["C"])];
const at = (s: Standing, name: string) => s.readiness.joints[name];

test("a joint said made with no signal reads made, and its clocks run by what the server gave", () => {
  const found = folded(standing([joint("A", "dry")]), [said("made", ["A"], NOW - 60)], procedures, parts, NOW);
  const a = at(found, "A");
  assert.deepEqual(
    [a?.state, a?.by, a?.set_at, a?.fill_at, a?.cured_at],
    ["setting", "Rowan", NOW + 60, NOW - 60 + 3600, NOW - 60 + 7200],
  );
  assert.equal(
    at(folded(standing([]), [said("made", ["A"], NOW - 200)], procedures, parts, NOW), "A")?.state,
    "curing",
  );
  assert.equal(at(folded(standing([]), [said("made", ["A"], NOW - 8e3)], procedures, parts, NOW), "A")?.state, "cured");
});

test("where its clocks are not known it is not to be touched, however long ago it was", () => {
  assert.equal(at(folded(standing([]), [said("made", ["A"], NOW - 8e4)], null, parts, NOW), "A")?.state, "setting");
});

test("no gate of a section that was touched opens, and nothing is done, until the server has judged", () => {
  const found = folded(
    standing([joint("A", "proved", { proved: true })]),
    [said("undone", ["A"], NOW)],
    procedures,
    parts,
    NOW,
  );
  const { sections, hand_over } = found.readiness;
  assert.equal(at(found, "A")?.state, "planned");
  assert.deepEqual(
    [sections.S1?.fill.open, sections.S1?.pressurise.open, sections.S1?.bury.open, sections.S1?.proved],
    [false, false, false, false],
  );
  assert.match(sections.S1?.pressurise.why ?? "", /^1 thing said here and not yet with the server/);
  assert.equal(sections.S2?.pressurise.open, true);
  assert.equal(hand_over.done, false);
});

test("a test said with no signal proves nothing yet", () => {
  const test = said("tested", [], NOW, { section: "S2", passed: true });
  const found = folded(standing([joint("C", "cured")]), [test], procedures, parts, NOW);
  assert.equal(at(found, "C")?.state, "cured");
  assert.equal(found.readiness.sections.S2?.bury.open, false);
});

test("events come in any order to one state, by when they happened", () => {
  const events = [
    said("dry_fitted", ["B"], NOW - 500),
    said("made", ["B"], NOW - 400),
    said("undone", ["B"], NOW - 300),
    said("left_dry", ["B"], NOW - 200, { note: "the next person glues it" }),
    said("made", ["C"], NOW - 100),
    said("dry_fitted", ["C"], NOW - 50),
  ];
  const told = (order: Entry[]) => JSON.stringify(folded(standing([]), order, procedures, parts, NOW));
  const straight = told(events);
  for (let n = 0; n < 20; n += 1) {
    const mixed = [...events].sort((a, b) => ((a.event.at * 7 + n * 13) % 11) - ((b.event.at * 7 + n * 13) % 11));
    assert.equal(told(mixed), straight);
  }
  const found = folded(standing([]), events, procedures, parts, NOW);
  assert.deepEqual([at(found, "B")?.state, at(found, "B")?.purpose], ["dry", "the next person glues it"]);
  assert.equal(at(found, "C")?.state, "setting"); // what is made is not only dry-fitted any more
});

test("with nothing waiting it is what the server said", () => {
  const was = standing([joint("A", "made" as JointState["state"])]);
  assert.equal(folded(was, [], procedures, parts, NOW), was);
});
