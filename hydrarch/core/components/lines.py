"""What a line is made of between its things: where runs meet, where they turn, where one ends."""

from __future__ import annotations

from typing import ClassVar, Literal

from hydrarch.core.components.base import Kind, PortSpec, Trait, What, register

__all__ = ["Bend", "Cap", "Junction"]


class Junction(What):
    """Where runs meet."""

    kind: Literal["junction"] = "junction"


class Bend(What):
    """Where a line turns."""

    kind: Literal["bend"] = "bend"


class Cap(What):
    """A closed end."""

    traits: ClassVar[tuple[Trait, ...]] = ("fitting",)
    kind: Literal["cap"] = "cap"


_ANY = (PortSpec("line", "any", "Line", takes=0, needs=False, ends=()),)

register(Kind(model=Junction, title="Junction", letter="J", role="line", ports=_ANY, needs="the runs that meet there"))
register(Kind(model=Bend, title="Bend", letter="B", role="line", ports=_ANY, needs="two runs"))
register(
    Kind(
        model=Cap,
        title="Cap",
        letter="C",
        role="end",
        ports=(PortSpec("line", "any", "Line"),),
        needs="one run",
        families=("cap",),
    )
)
