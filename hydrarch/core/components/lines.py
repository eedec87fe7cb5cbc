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

register(Kind(Junction, "Junction", "J", "line", _ANY, "the runs that meet there"))
register(Kind(Bend, "Bend", "B", "line", _ANY, "two runs"))
register(Kind(Cap, "Cap", "C", "end", (PortSpec("line", "any", "Line"),), "one run", ("cap",)))
