"""The clocks of a joint in the hand: what runs from one move to the next, the least and the most it may take."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.cutting.bill import cement_body
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.making.skin import skin_time
from hydrarch.core.making.steps import fusion_times, hold_time
from hydrarch.core.plan.document import Plan

__all__ = ["Phase", "phases"]

_SOFT = "solvent:flex"
_HEAT_LEAST, _HEAT_MOST = 0.8, 1.5  # of the table's heating time: colder does not fuse, hotter closes the bore


@dataclass(frozen=True, slots=True)
class Phase:
    """What runs between two moves: the `move` that begins it, in an imperative, and the least and most seconds it may
    take (None: as long as it likes).
    """

    move: str
    least: float
    most: float | None
    why: str
    source: str


def phases(plan: Plan, joint: Joint) -> tuple[Phase, ...]:
    """The clocks of one joint, in their order; empty where nothing runs."""
    if joint.method == "solvent weld":
        soft = joint.a.end.startswith(_SOFT) or joint.b.end.startswith(_SOFT)
        wet = skin_time(cement_body((joint.size,), soft), plan.conditions.air_temperature)
        return (
            Phase("Cement on", 0.0, wet, "cement skins and no longer bites", "from memory; the tin's own words win"),
            Phase("Pushed home", hold_time(joint.size), None, "the taper pushes the pipe back out", "common practice"),
        )
    if joint.method == "socket fusion":
        times, source = fusion_times(joint.size), "DVS 2207-11 for PP, from memory"
        return (
            Phase(
                "On the iron",
                _HEAT_LEAST * times["heat"],
                _HEAT_MOST * times["heat"],
                "colder does not fuse, longer closes the bore",
                source,
            ),
            Phase("Off the iron", 0.0, times["changeover"], "the melt skins in the air", source),
            Phase("Joined", times["fix"], None, "the weld is still soft", source),
        )
    return ()
