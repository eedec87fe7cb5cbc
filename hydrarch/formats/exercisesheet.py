"""An exercise on paper: its drawing, its kit, its pieces with room for one's own figures, boxes for every step, and
what is measured at the end. No answer is on it.
"""

from __future__ import annotations

from functools import cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template

from hydrarch.core.base.units import show
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.practice.attempt import exercise_kit
from hydrarch.core.practice.exercise import Exercise
from hydrarch.core.practice.move_clocks import phases
from hydrarch.formats.drawing import drawings
from hydrarch.formats.sheet import Table

__all__ = ["exercise_sheet"]


@cache
def _template() -> Template:
    setting = Environment(
        loader=PackageLoader("hydrarch.formats"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
    )
    return setting.get_template("exercise.html")


def exercise_sheet(exercise: Exercise, derived: Derivation) -> str:
    """One self-contained page of HTML to print."""
    return _template().render(
        exercise=exercise,
        paper="letter" if exercise.plan.units == "us" else "A4",
        drawings=drawings(exercise.plan, derived),
        tables=(_kit(derived), _pieces(exercise, derived), _joints(exercise, derived), _measured(exercise)),
        cautions=derived.cautions,
    )


def _kit(derived: Derivation) -> Table:
    rows = tuple(("", r.name, f"{r.count} {r.unit}".strip()) for r in exercise_kit(derived))
    return Table("Lay out the kit", ("", "part", "how many"), rows, (2,), boxes=True)


def _pieces(exercise: Exercise, derived: Derivation) -> Table:
    units = exercise.plan.units
    rows = tuple(
        (
            "",
            f"{p.a.name} to {p.b.name}",
            str(show(p.centres, "cut", units)),
            f"{p.a.takes or 'bare end'}; {p.b.takes or 'bare end'}",
            "",
        )
        for p in derived.cuts.pieces
    )
    says = "Measure each fitting from its centre to its stop. Work out the cut length, then check it before the cut."
    return Table(
        "Measure and cut",
        ("", "piece", "centre to centre", "what goes on it", "cut length"),
        rows,
        (2, 4),
        says,
        boxes=True,
    )


def _joints(exercise: Exercise, derived: Derivation) -> Table:
    def clocks(name: str) -> str:
        return "; ".join(
            f"{p.move}: " + (f"{p.most:g} s at the most" if p.most is not None else f"{p.least:g} s at the least")
            for p in phases(exercise.plan, known[name])
        )

    known = {str(j.id): j for j in derived.assembly.joints}
    rows = tuple(
        ("", j.place + (f", towards {j.towards}" if j.towards else ""), f"{j.method}, {j.size}", clocks(j.id), "")
        for j in derived.assembly.joints
    )
    says = "Dress the ends, put all of it together dry, draw an index line where an angle is set, then make the joints in an order that works."
    return Table("Make the joints", ("", "joint", "how", "clock", "order"), rows, (4,), says, boxes=True)


def _measured(exercise: Exercise) -> Table:
    units = exercise.plan.units
    rows = tuple(
        ("", t.what, t.how, f"{show(t.ideal, t.quantity, units)} ± {show(t.off, t.quantity, units)}", t.source, "")
        for t in exercise.tolerances
    )
    return Table("Measure the result", ("", "what", "how", "accepted", "source", "yours"), rows, (5,), boxes=True)
