"""Inverts of drains: what each joint is laid to, what was read there, and how the drain falls as it lies."""

import unittest
from dataclasses import replace

from pydantic import ValidationError

from hydrarch.core.base.units import FOOT
from hydrarch.core.commissioning.inverts import DrainAsLaid, block_words, drains_as_laid
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, read_said
from hydrarch.core.record.log import Log
from hydrarch.core.record.states import mark_joints
from hydrarch.core.report.as_laid import as_laid
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import draw, point

NOW = 1_790_000_000.0
LONG = 12.0


def drain(units: str = "metric") -> Plan:
    """12 m of drain that falls 1 in 60, of lengths of 3 m, a gully above and an outfall below."""
    spots = [
        point("G", 0, 0, "drain_inlet", flow=1e-3, depth=0.4),
        point("O", LONG, 0, "outfall", depth=0.4 + LONG / 60),
    ]
    return draw(spots, [("G:out", "O")], units=units, conditions={"market": "elsewhere"})


def said(done: Derivation, *things: tuple[str, float, str, float | None]) -> Log:
    """A record: kind, time, joint, and the invert read."""
    found = []
    for n, (kind, at, joint, level) in enumerate(things):
        marks = mark_joints(done.assembly.joints, [joint], {}, place=True)
        found.append(Event(id=f"e{n}", kind=kind, at=at, by="Ash", joints=marks, level=level))  # type: ignore[arg-type]
    return Log(found)


def lies(plan: Plan, done: Derivation, log: Log) -> tuple[DrainAsLaid, ...]:
    """The drains as they were read."""
    stands = where_it_stands(plan, done, log, NOW)
    return drains_as_laid(plan, done.layout, done.drains, done.inverts, done.assembly.named, stands.joints)


class Wanted(unittest.TestCase):
    """What a joint is laid to."""

    def test_by_the_drawing_and_the_bore(self) -> None:
        """The invert lies half the bore below the pipe's axis, the cover is to its top; both fall with the line."""
        done = derive(drain())
        item, (run,) = done.settled.pipes["R1"], done.drains
        self.assertAlmostEqual(run.inverts[0], -0.4 - item.bore / 2)
        self.assertAlmostEqual(run.inverts[0] - run.inverts[1], LONG / 60)
        self.assertAlmostEqual(run.covers[0], 0.4 - item.outside / 2)
        wanted = sorted(done.inverts.values(), key=lambda w: -w.invert)
        self.assertGreaterEqual(len(wanted), 3)
        for one in wanted:
            joint = done.assembly.named[one.joint]
            self.assertAlmostEqual(one.invert, run.inverts[0] - (joint.share or 0.0) * LONG / 60, places=6)
            self.assertEqual((one.falls, one.block), ("1 in 60", "20 mm under the lower end of a 1.2 m level"))

    def test_only_of_drains(self) -> None:
        """A supply line has none."""
        spots = [point("M", 0, 0, "mains", depth=0.5), point("T", 9, 0, "tap", depth=0.5)]
        self.assertEqual(derive(draw(spots, [("M", "T")])).inverts, {})

    def test_the_block_under_a_level(self) -> None:
        """A quarter inch in a foot is an inch in four feet; an eighth is half an inch (common practice)."""
        self.assertTrue(block_words(0.25 / 12, "us").startswith("1 in under"))
        self.assertTrue(block_words(0.125 / 12, "us").startswith("1/2 in under"))
        self.assertTrue(block_words(1 / 80, "metric").startswith("15 mm under"))
        self.assertEqual(block_words(0.0, "us"), "")


class Read(unittest.TestCase):
    """What was read at joints."""

    def setUp(self) -> None:
        """The drain with its joints from above down."""
        self.plan = drain()
        self.done = derive(self.plan)
        self.down = sorted(self.done.inverts, key=lambda n: -self.done.inverts[n].invert)

    def test_as_wanted_high_and_low(self) -> None:
        """Within 2 mm it is as wanted; more is told by how much and which way, with who read it and when."""
        a, b, c = self.down[:3]
        want = {n: self.done.inverts[n].invert for n in (a, b, c)}
        log = said(
            self.done,
            ("levelled", NOW - 30, a, want[a] + 0.001),
            ("levelled", NOW - 20, b, want[b] + 0.012),
            ("levelled", NOW - 10, c, want[c] - 0.004),
        )
        (found,) = lies(self.plan, self.done, log)
        self.assertEqual([r.off for r in found.reads], ["as wanted", "12 mm high", "4 mm low"])
        self.assertEqual([r.joint for r in found.reads], [a, b, c])
        far = [(self.done.assembly.named[n].share or 0.0) * LONG for n in (a, b, c)]
        fall = (want[a] + 0.001 - want[b] - 0.012) / (far[1] - far[0])
        self.assertTrue(found.falls[0].startswith(f"1 in {1 / fall:.0f} from "), found.falls)
        self.assertEqual(found.rises, ())
        page = sheet_html(self.plan, self.done, where_it_stands(self.plan, self.done, log, NOW))
        self.assertIn("Inverts as read", page)
        self.assertIn("12 mm high", page)

    def test_where_it_does_not_fall(self) -> None:
        """A bell that lies higher than the one above it is reported with how much."""
        a, b = self.down[:2]
        at = self.done.inverts[a].invert
        log = said(self.done, ("levelled", NOW - 30, a, at), ("levelled", NOW - 20, b, at + 0.006))
        self.assertIn("it rises 6 mm", lies(self.plan, self.done, log)[0].rises[0])
        log = said(self.done, ("levelled", NOW - 30, a, at), ("levelled", NOW - 20, b, at))
        self.assertIn("it lies level", lies(self.plan, self.done, log)[0].rises[0])

    def test_a_length_set_down_later_moves_those_before_it(self) -> None:
        """Each earlier one is checked again when one is moved (common practice): a reading from before another joint of
        the drain was made says so, until it is read again.
        """
        a, b = self.down[:2]
        log = said(
            self.done,
            ("made", NOW - 60, a, None),
            ("levelled", NOW - 50, a, self.done.inverts[a].invert),
            ("made", NOW - 40, b, None),
        )
        self.assertTrue(lies(self.plan, self.done, log)[0].reads[0].since)
        log.add(replace(e, id="again", at=NOW - 30) for e in said(self.done, ("levelled", NOW, a, 0.0)).events)
        self.assertFalse(lies(self.plan, self.done, log)[0].reads[0].since)

    def test_read_as_it_is_set_down_it_stays(self) -> None:
        """An invert that is read before the joint is said to be made is a reading of it, and needs no second one."""
        a = self.down[0]
        log = said(self.done, ("levelled", NOW - 50, a, -0.5), ("made", NOW - 40, a, None))
        (read,) = lies(self.plan, self.done, log)[0].reads
        self.assertEqual((read.read, read.since), (-0.5, False))
        log = said(self.done, ("levelled", NOW - 50, a, -0.5), ("made", NOW - 40, a, None), ("made", NOW - 30, a, None))
        self.assertEqual(lies(self.plan, self.done, log), ())

    def test_made_again_it_lies_anew(self) -> None:
        """What was read of a joint that was taken apart, or made again, is no reading of it; as laid it is kept with
        the joint, whatever is drawn later.
        """
        a = self.down[0]
        for kind in ("undone", "made"):
            log = said(
                self.done,
                ("made", NOW - 60, a, None),
                ("levelled", NOW - 50, a, -0.5),
                (kind, NOW - 40, a, None),
            )
            self.assertEqual(lies(self.plan, self.done, log), ())
        log = said(self.done, ("made", NOW - 60, a, None), ("levelled", NOW - 50, a, -0.5))
        higher = self.plan.model_copy(
            update={"points": tuple(p.model_copy(update={"depth": p.depth - 2 * FOOT / 12}) for p in self.plan.points)}
        )
        later = derive(higher)
        (row,) = as_laid(higher, later, where_it_stands(higher, later, log, NOW))
        self.assertEqual(row.read, -0.5)

    def test_what_a_page_may_say(self) -> None:
        """An invert, and one joint."""
        body = {"id": "0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10", "kind": "levelled", "at": NOW, "by": "Ash"}
        self.assertEqual(read_said({**body, "joints": ["a"], "level": 1.25}).level, 1.25)
        for more in (
            {"joints": ["a"]},
            {"joints": ["a", "b"], "level": 1.0},
            {"joints": [], "level": 1.0},
            {"joints": ["a"], "level": 1e9},
        ):
            with self.assertRaises(ValidationError):
                read_said({**body, **more})
