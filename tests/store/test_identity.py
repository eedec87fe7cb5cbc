"""Identity for the life of the pipe: nothing that was said of one thing is ever inherited by another."""

import json
import sqlite3
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from hydrarch.core.base.identity import owner
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import copied, taken_away
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.parting import partings
from hydrarch.core.plan.references import ids_of, names_in, table, without
from hydrarch.core.record.events import Event, EventKind
from hydrarch.core.record.states import MADE, mark_joints
from hydrarch.formats.changes import applied, change_of
from hydrarch.store.database import Store
from hydrarch.store.errors import Reused
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import add_job, job, revision, save_plan
from tests.core.plans import draw, point

ROOT = Path(__file__).resolve().parents[2]
PVC = {"series": "pvc40"}


def line() -> Plan:
    """A tank, a tee and a tap, of pipe that is solvent welded."""
    return draw(
        [
            point("K", 0, 0, "tank", water_level=20.0),
            point("J", 10, 0, "junction"),
            point("T1", 10, 8, "tap", height=0.0),
        ],
        [("K", "J"), ("J", "T1")],
        runs_more=[PVC, PVC],
    )


class TwoPeople(RuleBasedStateMachine):
    """Two people draw, make, test, delete, draw again, undo and bring together; what each physical thing went through
    is kept beside.
    """

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.store = Store(Path(self.folder.name) / "h.sqlite3")
        self.now = time.time() - 30 * 86400
        self.known: set[str] = set()
        self.made: set[str] = set()
        self.tested: set[str] = set()
        self.zoned: dict[str, set[str]] = {}
        self.mine: list[Plan] = []
        """What each of the two has open: an older or the newest plan."""

    @initialize()
    def begin(self) -> None:
        """A job with a short line, open on both phones."""
        add_job(self.store, "job", line())
        self.known = set(ids_of(line()))
        self.mine = [line(), line()]

    def teardown(self) -> None:
        """Put away what was made."""
        self.store.close()
        self.folder.cleanup()

    def newest(self) -> Plan:
        """The plan as it is kept."""
        return job(self.store, "job").plan

    def save(self, who: int, plan: Plan, fresh: bool = True) -> None:
        """Keep what one changed in the plan open to them on top of the newest, as a change that travels."""
        base, newest = self.mine[who].model_dump(mode="json"), self.newest()
        body = applied(newest.model_dump(mode="json"), change_of(base, plan.model_dump(mode="json")))
        missing = {owner(n) for r, n in names_in(body) if r.sort != "nozzle"} - ids_of(
            Plan.model_construct(**_lists(body))
        )
        whole = Plan.model_validate_json(json.dumps(without(body, missing)))
        drawn = ids_of(plan) - ids_of(self.mine[who])
        if fresh:
            assert not drawn & self.known, "an id was used again"
        self.known |= drawn
        found = save_plan(self.store, "job", job(self.store, "job").revision, whole, () if fresh else drawn)
        self.mine[who] = found.plan

    @rule(who=st.integers(0, 1), x=st.integers(20, 60), kind=st.sampled_from(["tap", "sprinkler"]))
    def draw(self, who: int, x: int, kind: str) -> None:
        """One draws a run from the tee to a new outlet."""
        plan = self.mine[who]
        if "J" not in plan.by_id or len(plan.points) > 8:
            return
        draft = Draft(plan)
        new = draft.add_point(
            "T", x=float(x), y=float(len(plan.points)), ground=0.0, depth=0.0, name="Tap 2", what={"kind": kind}
        )
        run = draft.add_run("J", new)
        next(r for r in draft.body["runs"] if r["id"] == run)["series"] = "pvc40"
        self.save(who, draft.plan())

    @rule(who=st.integers(0, 1), nth=st.integers(0, 9))
    def copy(self, who: int, nth: int) -> None:
        """One copies an outlet."""
        outlets = self.mine[who].outlets
        if outlets and len(self.mine[who].points) <= 8:
            self.save(
                who, copied(self.mine[who], [outlets[nth % len(outlets)].id], (3.0, 77.0 + len(self.known), 0.0)).plan
            )

    @rule(who=st.integers(0, 1), nth=st.integers(0, 9))
    def delete(self, who: int, nth: int) -> None:
        """One deletes an outlet with its pipe."""
        outlets = self.mine[who].outlets
        if outlets:
            self.save(who, taken_away(self.mine[who], [outlets[nth % len(outlets)].id]).plan)

    @rule(who=st.integers(0, 1), nth=st.integers(0, 9))
    def undo(self, who: int, nth: int) -> None:
        """One deletes, and takes that back."""
        before = self.mine[who]
        self.delete(who, nth)
        gone = [p for p in before.points if p.id not in self.mine[who].by_id]
        if not gone:
            return
        now = self.mine[who].model_dump(mode="json")
        body = applied(
            now,
            change_of(without(before.model_dump(mode="json"), [p.id for p in gone]), before.model_dump(mode="json")),
        )
        missing = {owner(n) for r, n in names_in(body) if r.sort != "nozzle"} - ids_of(
            Plan.model_construct(**_lists(body))
        )
        self.save(who, Plan.model_validate_json(json.dumps(without(body, missing))), fresh=False)

    @rule(who=st.integers(0, 1))
    def look(self, who: int) -> None:
        """One sees what the other did."""
        self.mine[who] = self.newest()

    @rule(who=st.integers(0, 1), nth=st.integers(0, 9), zone=st.sampled_from(["Lawn", "Beds"]))
    def zone(self, who: int, nth: int, zone: str) -> None:
        """One puts an outlet into a zone, and takes it out of every other."""
        plan = self.mine[who]
        if not plan.outlets:
            return
        head = plan.outlets[nth % len(plan.outlets)].id
        body = plan.model_dump(mode="json")
        for z in body["zones"]:
            z["heads"] = [h for h in z["heads"] if h != head]
        if all(z["name"] != zone for z in body["zones"]):
            body["zones"].append({"id": f"Z{zone}", "name": zone, "heads": []})
        next(z for z in body["zones"] if z["name"] == zone)["heads"].append(head)
        self.zoned.setdefault(zone, set()).add(head)
        self.known.add(f"Z{zone}")
        self.save(who, Plan.model_validate_json(json.dumps(body)), fresh=False)

    def say(self, kind: EventKind, names: list[str], **more: Any) -> None:
        """Something is said of joints of the newest plan."""
        self.now += 3 * 86400
        done = derive(self.newest())
        add_events(
            self.store,
            "job",
            [
                Event(
                    id=f"{self.now:.0f}",
                    kind=kind,
                    at=self.now,
                    by="Ash",
                    joints=mark_joints(done.assembly.joints, names, {}, True),
                    **more,
                )
            ],
        )

    @rule()
    def make(self) -> None:
        """All joints are made."""
        names = [j.id for j in derive(self.newest()).assembly.joints]
        self.made |= {n for j in derive(self.newest()).assembly.joints for n in j.names}
        self.say("made", list(names))

    @precondition(lambda self: self.made)
    @rule()
    def test(self) -> None:
        """All sections are tested."""
        done = derive(self.newest())
        for section in done.sections:
            self.tested |= {n for j in section.joints for n in done.assembly.named[j].names}
            hold = max(section.hold, 3600.0) + 60
            self.say(
                "tested",
                list(section.joints),
                section=section.id,
                pressure=section.test,
                ended=self.now + 3 * 86400 + hold,
                passed=True,
            )

    @invariant()
    def nothing_is_inherited(self) -> None:
        """No joint has a state that nobody gave it, no test proves what it never saw, no zone waters what nobody put in
        it.
        """
        if not self.mine:
            return
        plan = self.newest()
        done: Derivation = derive(plan)
        ready = where_it_stands(plan, done, [e for _, e in events(self.store, "job")], self.now + 86400)
        for joint in done.assembly.joints:
            state = ready.joints.get(joint.id)
            if state is not None and state.state in MADE:
                assert self.made & set(joint.names), f"{joint.place} reads {state.state}, and nobody made it"
            if state is not None and state.proved:
                assert self.tested & set(joint.names), f"{joint.place} reads tested, and no test saw it"
        for z in plan.zones:
            assert set(z.heads) <= self.zoned.get(z.name, set()), f"{z.name} waters what nobody put in it"


def _lists(body: dict[str, Any]) -> dict[str, Any]:
    """A document as plain objects with the fields that hold ids."""
    return {k: tuple(_Thing(x) for x in body[k]) for k in ("points", "runs", "leaving", "scenarios", "zones")}


class _Thing:
    def __init__(self, body: dict[str, Any]) -> None:
        self.__dict__.update({k: _Thing(v) if isinstance(v, dict) else v for k, v in body.items()})


class NothingInherited(TwoPeople.TestCase):  # type: ignore[misc, valid-type]
    """The law over random sequences."""

    settings = settings(
        max_examples=20,
        stateful_step_count=14,
        deadline=None,
        suppress_health_check=[HealthCheck.too_slow],
        derandomize=True,
    )


class Reuse(unittest.TestCase):
    """An id that was used before."""

    def setUp(self) -> None:
        """A store with one job."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "h.sqlite3"
        self.store = Store(self.path)
        self.addCleanup(self.shut)

    def shut(self) -> None:
        """Close the store that is open last."""
        self.store.close()

    def test_refused(self) -> None:
        """A new tap under the id of one that was deleted, or of one that only an event knows, is refused, and nothing
        is kept of it.
        """
        whole = line()
        add_job(self.store, "job", whole)
        bare = save_plan(self.store, "job", 1, taken_away(whole, ["T1"]).plan)
        with self.assertRaises(Reused) as caught:
            save_plan(self.store, "job", 2, whole)
        self.assertEqual(caught.exception.ids, ["R2", "R2a", "R2b", "T1"])
        self.assertEqual(job(self.store, "job").revision, 2)
        back = save_plan(self.store, "job", 2, whole, ids_of(whole) - ids_of(bare.plan))
        self.assertEqual(back.revision, 3)
        add_events(
            self.store,
            "job",
            [Event(id="1", kind="made", at=time.time(), by="Ash", joints=mark_joints((), ["R9a~1"], {}, True))],
        )
        body = whole.model_dump(mode="json")
        body["points"].append(point("T9", 30, 0, "tap"))
        body["runs"].append(
            {
                "id": "R9",
                "a": {"id": "R9a", "point": "J", "port": "line"},
                "b": {"id": "R9b", "point": "T9", "port": "in"},
            }
        )
        with self.assertRaisesRegex(Reused, "R9a"):
            save_plan(self.store, "job", 3, Plan.model_validate_json(json.dumps(body)))

    def test_what_came_back_as_it_was_is_no_reuse(self) -> None:
        """Undo gives a thing back as it was; drawn elsewhere under its old id it is another, and so is a run to it that
        reads alike.
        """
        one = line().model_dump(mode="json")
        two = without(one, ["T1"])
        self.assertEqual(partings([(1, 1.0, one), (2, 2.0, two), (3, 3.0, one)]), ())
        moved = json.loads(json.dumps(one))
        moved["points"][2]["x"] = 40.0
        found = {p.id: p.revision for p in partings([(1, 1.0, one), (2, 2.0, two), (3, 3.0, moved)])}
        self.assertEqual(found, {"T1": 3, "R2": 3, "R2a": 3, "R2b": 3})

    def test_old_jobs_are_parted(self) -> None:
        """In a database of before, joints made at a tap that was deleted are told as lost, and the tap drawn under its
        id is not made.
        """
        whole = line()
        add_job(self.store, "job", whole)
        done = derive(whole)
        names = [j.id for j in done.assembly.joints]
        began = time.time()
        add_events(
            self.store,
            "job",
            [
                Event(
                    id="1",
                    kind="made",
                    at=began - 5,
                    by="Ash",
                    joints=mark_joints(done.assembly.joints, names, {}, True),
                    section=None,
                )
            ],
        )
        self.store.close()
        body = whole.model_dump(mode="json")
        moved = json.loads(json.dumps(body))
        moved["points"][2]["x"] = 40.0
        db = sqlite3.connect(self.path)
        for number, plan in ((2, without(body, ["T1"])), (3, moved)):
            db.execute("INSERT INTO revision VALUES ('job', ?, ?, ?)", (number, began + number, json.dumps(plan)))
        db.executescript(
            "UPDATE job SET revision = 3; DROP TABLE known_id; DROP TABLE before_parting; "
            "DROP TABLE audit; DROP TABLE forgotten; DROP TABLE passphrase; DROP TABLE gone_row; DROP TABLE exercise; DROP TABLE attempt; DROP TABLE attempt_photo; "
            "ALTER TABLE session DROP COLUMN "
            "owner; DELETE FROM "
            "migration WHERE number > 7;"
        )
        db.commit()
        db.close()
        self.store = Store(self.path)
        plan = job(self.store, "job").plan
        ready = where_it_stands(plan, derive(plan), [e for _, e in events(self.store, "job")], began + 9 * 86400)
        at_tap = [j for j in derive(plan).assembly.joints if j.end in ("R2a", "R2b")]
        self.assertTrue(at_tap)
        for joint in at_tap:
            self.assertNotIn(joint.id, ready.joints)
        self.assertEqual({x.by for x in ready.lost}, {"Ash"})
        self.assertEqual(len(ready.lost) + sum(s.state in MADE for s in ready.joints.values()), len(names))
        kept = self.store.read().execute("SELECT count(*) FROM before_parting").fetchone()[0]
        self.assertEqual(kept, 2, "the first revision and the event, as they were")
        first = revision(self.store, "job", 1).plan.points[2]
        self.assertNotEqual(first.id, "T1")
        with self.assertRaises(Reused):
            save_plan(self.store, "job", 3, plan.model_copy(update={"points": (*plan.points, first)}))


class Table(unittest.TestCase):
    """What points at what."""

    def test_the_page_has_the_same_table(self) -> None:
        """The page goes by the table of the core."""
        kept = json.loads((ROOT / "web/src/job/references.json").read_text("utf-8"))
        self.assertEqual(kept, json.loads(json.dumps(table())), "run ./run types")

    def test_every_field_that_names_a_thing_is_declared(self) -> None:
        """In a plan full of references none names what is gone once a thing was taken out, whichever it was."""
        body = line().model_dump(mode="json")
        body["scenarios"] = [{"id": "s", "name": "All", "open": ["T1"]}]
        body["zones"] = [{"id": "z", "name": "Lawn", "heads": ["T1"], "valve": "T1"}]
        body["ways"] = [{"end": "R2b", "fittings": []}, {"end": "T1~riser", "fittings": []}]
        body["nodes"] = [{"point": "T1", "how": "fitting", "fittings": []}]
        left = without(body, ["T1"])
        self.assertNotIn("T1", json.dumps(left))
        self.assertNotIn("R2", json.dumps(left))
        self.assertEqual(without(body, []), body)
