"""Which stage a problem is mended in, and how far each stage is."""

import ast
import unittest
from pathlib import Path

from hydrarch.core.base.messages import messages
from hydrarch.core.base.problems import Problem, Stage, declared
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.states import mark_joints
from tests.core.plans import make_plan, point, tank_to_tap, tree

CORE = Path(__file__).resolve().parents[2] / "hydrarch" / "core"
ORDER: tuple[Stage, ...] = ("survey", "size", "join", "cut", "make", "prove", "keep")


def codes_told() -> set[str]:
    """The codes of every problem that the core tells of: of its messages, and of problems that tell for themselves."""
    found = set()
    for path in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Problem":
                codes = [k.value for k in node.keywords if k.arg == "code"]
                found |= {c.value for c in codes if isinstance(c, ast.Constant) and isinstance(c.value, str)}
    return found | {m.code for m in messages().values()}


def shares(plan: Plan, events: tuple[Event, ...] = (), now: float = 0.0) -> dict[Stage, float]:
    """How far each stage of a plan is."""
    return where_it_stands(plan, derive(plan), events, now).stages


class ProblemStages(unittest.TestCase):
    """One stage for each code."""

    def test_every_code_has_its_stage(self) -> None:
        """What the core tells of and what has a stage are the same codes, so that no problem is left without a
        place.
        """
        self.assertEqual(codes_told(), set(declared()))

    def test_an_unknown_code_is_an_error(self) -> None:
        """A code of no stage is a mistake of ours, told at once."""
        with self.assertRaises(KeyError):
            Problem(code="nonsense", severity="note", where="", says="", mend="")

    def test_what_holds_a_stage_back(self) -> None:
        """An outlet that starves keeps sizing from being done; a surge is for the crew to judge."""
        self.assertTrue(Problem(code="outlet-starved", severity="warn", where="T", says="", mend="").holds)
        self.assertFalse(Problem(code="surge", severity="warn", where="R1", says="", mend="").holds)


class Shares(unittest.TestCase):
    """How far each stage is."""

    def test_nothing_drawn(self) -> None:
        """An empty sheet has nothing done; a lone tank has the survey begun."""
        empty = make_plan([], [])
        self.assertEqual(shares(empty), dict.fromkeys(ORDER, 0.0))
        begun = shares(make_plan([point("A", 0, 0, "tank", water_level=20.0)], []))
        self.assertEqual(begun, {**dict.fromkeys(ORDER, 0.0), "survey": 0.5})

    def test_a_sound_line(self) -> None:
        """A tank that feeds a tap is surveyed, sized, joined and cut as soon as it is drawn; nothing is made."""
        done = {"survey": 1.0, "size": 1.0, "join": 1.0, "cut": 1.0, "make": 0.0, "prove": 0.0, "keep": 0.0}
        self.assertEqual(shares(tank_to_tap()), done)

    def test_a_starved_tap_holds_sizing_back_only(self) -> None:
        """A tap that wants more than the tank has is not sized; it can be joined and cut all the same."""
        found = shares(tank_to_tap(tap={"needs": 900e3}))
        self.assertEqual([found[s] for s in ORDER[:4]], [1.0, 0.0, 1.0, 1.0])

    def test_an_open_end_holds_all_back(self) -> None:
        """A line that ends in nothing is not drawn yet, so no later stage is done."""
        spots = [
            point("A", 0, 0, "tank", water_level=20.0),
            point("B", 30, 0, "tap", height=0.0),
            point("J", 20, 0, "junction"),
            point("X", 20, 9, "junction"),
        ]
        found = shares(make_plan(spots, [("A", "J"), ("J", "B"), ("J", "X")]))
        self.assertEqual([found[s] for s in ORDER[:4]], [0.5, 0.0, 0.0, 0.0])

    def test_made_and_undone(self) -> None:
        """Making half the joints makes half the stage; dry ones do not count, and one undone counts no more."""
        plan = tree(4)
        joints = derive(plan).assembly.joints
        half = mark_joints(joints, [j.id for j in joints[: len(joints) // 2]], {}, False)
        made = Event(id="1", kind="made", at=100.0, by="Ash", joints=half)
        dry = Event(
            id="2",
            kind="dry_fitted",
            at=100.0,
            by="Ash",
            joints=mark_joints(joints, [j.id for j in joints if j.id not in half], {}, False),
        )
        share = len(half) / len(joints)
        self.assertAlmostEqual(shares(plan, (made, dry), 200.0)["make"], share)
        again = Event(
            id="3", kind="undone", at=150.0, by="Rowan", joints=mark_joints(joints, [joints[0].id], {}, False)
        )
        self.assertAlmostEqual(shares(plan, (made, dry, again), 200.0)["make"], share - 1 / len(joints))

    def test_buried_is_kept_but_not_proved(self) -> None:
        """Burying fills the last stage; only a test that passed fills the one before it."""
        plan = tank_to_tap()
        done = derive(plan)
        joints, section = done.assembly.joints, done.sections[0]
        all_of_it = mark_joints(joints, [j.id for j in joints], {}, False)
        made = Event(id="1", kind="made", at=100.0, by="Ash", joints=all_of_it)
        tested = Event(
            id="2",
            kind="tested",
            at=5e5,
            by="Ash",
            joints=all_of_it,
            section=section.id,
            pressure=section.test,
            ended=5e5 + section.hold,
            passed=True,
        )
        buried = Event(id="3", kind="buried", at=6e5, by="Ash", joints=all_of_it)
        for events, proved in (((made, buried), 0.0), ((made, tested, buried), 1.0)):
            found = shares(plan, events, 1e6)
            self.assertEqual((found["make"], found["prove"], found["keep"]), (1.0, proved, 1.0))
