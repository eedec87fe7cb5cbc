"""What an addition takes: a way of joining, a room of the chain and an export that nobody planned for, each by the
files that the map names and no other.
"""

import unittest
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib.resources import files
from unittest.mock import patch

from hydrarch.core.base.cache import forget
from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue import tables
from hydrarch.core.catalogue.methods import methods
from hydrarch.core.derivation.chain import Checked, Derivation, derive, room
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.ways import join
from hydrarch.core.making.steps import procedure
from hydrarch.core.making.whole import gaps
from tests.core.plans import draw, point

ROWS = {
    "methods.csv": "quarter turn,no,no,yes,yes,yes,yes,no,hands,none,Turn it back and pull it out.,nothing sets,test",
    "systems.csv": "quarter,quarter-turn,test",
    "ends.csv": "quarter,seat,1/2,0.9,,0.5,,test\nquarter,plug,1/2,0.9,,0.5,,test",
    "matings.csv": "quarter,seat,quarter,plug,quarter turn,test",
    "ratings.csv": "pvc,quarter,,,,150,test",
    "steps.csv": 'quarter turn,,Push and turn,"Push it home and turn it a quarter.",Both marks stand in line.,'
    '"Turned half way, it comes out under pressure.",0,,test',
    "fittings.csv": "quarter-adapter,Quarter-turn adapter 1/2,adapter,pvc,solvent:socket:1/2|quarter:plug:1/2,"
    "0.0625|0.5,180|0,none,test\n"
    "quarter-hydrant,Quarter-turn end 1/2,adapter,pvc,quarter:seat:1/2|npt:female:1/2,0.5|0.5,180|0,none,test",
}
"""A way of joining: what its rows are, by table."""


class _Text:
    """A data file with rows of our own behind its own."""

    def __init__(self, package: str) -> None:
        self.package = package

    def joinpath(self, *parts: str) -> "_Text":
        self.parts = parts
        return self

    def read_text(self, encoding: str) -> str:
        told = files(self.package).joinpath(*self.parts).read_text(encoding)
        return told + ROWS.get(self.parts[-1], "") + "\n"


@contextmanager
def added() -> Iterator[None]:
    """The catalogue with those rows, for as long as it is used."""
    try:
        with patch.object(tables, "files", _Text):
            forget()
            yield
    finally:
        forget()


class Additions(unittest.TestCase):
    """Each kind that the map tells of."""

    def test_a_way_of_joining(self) -> None:
        """Rows alone: the catalogue is whole with it, the bench finds the way, a drawing is joined by it, and Make has
        its steps.
        """
        self.assertNotIn("quarter turn", methods())
        with added():
            self.assertEqual(gaps(), ())
            found = join(PipeOrEnd(series="pvc40", size="1/2"), PipeOrEnd(end="quarter:seat:1/2")).ways[0]
            self.assertEqual([j.method for j in found.joints], ["solvent weld", "quarter turn"])
            equipment = {"name": "in", "role": "any", "end": "quarter:seat:1/2", "height": 0.0}
            spots = [point("M", 0, 0, "mains"), point("E", 9, 0, "equipment", own_ports=[equipment])]
            done = derive(draw(spots, [("M", "E:in")]))
            joint = next(j for j in done.assembly.joints if j.method == "quarter turn")
            self.assertEqual([s.title for s in procedure(done.plan, joint, 5e5).steps], ["Push and turn"])
        self.assertNotIn("quarter turn", methods())

    def test_a_room(self) -> None:
        """A property with its stage: it is worked out with the others, told from its stage on, and where it fails
        the rest stands.
        """

        def told(d: Derivation) -> Checked:
            return Checked((Problem(code="no-way", severity="note", where="M", says="Made up.", mend="Leave it."),))

        def broken(d: Derivation) -> Checked:
            raise ZeroDivisionError

        plan = draw([point("M", 0, 0, "mains"), point("T", 9, 0, "tap")], [("M", "T")])
        usual = {p.code for p in derive(plan).problems()}
        for work, code in ((told, "no-way"), (broken, "room-failed")):
            derivation = self.with_room(work)(plan, strict=False)
            self.assertEqual({p.code for p in derivation.problems()} - usual, {code})
            self.assertNotIn(code, {p.code for p in self.with_room(work)(plan, strict=False).problems("size")})
        self.assertNotIn("extra", Derivation.ROOMS)

    @staticmethod
    def with_room(work: Callable[[Derivation], Checked]) -> type[Derivation]:
        """The chain with a room more."""

        class More(Derivation):
            """The chain, and one room."""

            extra = room("join", lambda d: Checked(()), "settled")(work)

        return More
