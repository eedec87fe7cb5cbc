"""When a joint may be handled, filled and tested, by every school side by side: the bench's question with no job at all."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.catalogue.guidance import Caution, cautions_for, practices
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.errors import Unknown
from hydrarch.core.making.cure import cure_time
from hydrarch.core.making.steps import fusion_times
from hydrarch.core.units import System

__all__ = ["SchoolWait", "Waits", "waiting_methods", "waits"]

_QUESTION = "cure"
_AT_ONCE = {
    "thread": "nothing sets: pressurise it as soon as it is tight; paste that sets says so on its tin",
    "barb and clamp": "once the pipe is cold to the hand and both clamps are drawn up again",
    "compression": "nothing sets: pressurise it, look, and tighten once more",
    "gasket bell": "nothing sets: a gravity line may be filled and watched at once",
    "shielded band": "nothing sets: tighten the bands again after the first filling",
}
"""Joints that need no waiting, and what to do instead; common practice."""


def waiting_methods() -> dict[str, tuple[str, ...]]:
    """The methods to ask about, with the sizes that make a difference: none where nothing sets."""
    welds, fused = (tuple(p.size for p in series(name).sizes) for name in ("pvc40", "ppr-s2.5"))
    return {"solvent weld": welds, "socket fusion": fused, **dict.fromkeys(_AT_ONCE, ())}


@dataclass(frozen=True, slots=True)
class SchoolWait:
    """One school's answer: what it says and why, whether it is the usual one, and the waits it comes to (s) here.

    `floored` is whether the published table asks for longer than the school does, and so decides.
    """

    option: str
    says: str
    reason: str
    usual: bool
    fill: float
    test: float
    floored: bool


@dataclass(frozen=True, slots=True)
class Waits:
    """How long (s) a joint is left alone (`hold` in the hands, `set` before it is handled), and what each school asks before water."""

    method: str
    hold: float
    set: float
    schools: tuple[SchoolWait, ...]
    says: str
    cautions: tuple[Caution, ...]
    source: str


def waits(how: str, size: str, temperature: float, humidity: float, pressure: float, units: System = "metric") -> Waits:
    """The waits of a joint made by method `how` at the lowest `temperature` (K) to come, for a test at `pressure` (Pa).

    Raises `Unknown` for a method, `OutOfRange` as `cure_time` does.
    """
    method(how)
    cautions = cautions_for(how, "test")
    if how == "solvent weld":
        table = cure_time(size, temperature, humidity, pressure, "table", units)
        practice, found = practices()[_QUESTION], []
        for option in practice.options:
            clock = cure_time(size, temperature, humidity, pressure, option.option, units)
            own = option.option != "table" and clock.cure <= table.cure + 1e-9
            found.append(SchoolWait(
                option.option, option.says, option.reason, option.option == practice.default, clock.fill, clock.cure, own,
            ))  # fmt: skip
        return Waits(
            how, 30.0, table.set, tuple(found), table.says, cautions, f"{table.source}; 30 s in the hands, common practice"
        )
    if how == "socket fusion":
        times = fusion_times(size)
        cool = times["cool"] * 60
        school = SchoolWait("table", "the fusion table", "The tool's own card wins.", True, cool, cool, False)
        return Waits(
            how, times["fix"], cool, (school,), "hold it still, then let it cool by itself", cautions, "DVS 2207-11, from memory"
        )
    if how not in _AT_ONCE:
        raise Unknown("wait of joint", how, waiting_methods())
    school = SchoolWait("none", "no wait", "", True, 0.0, 0.0, False)
    return Waits(how, 0.0, 0.0, (school,), _AT_ONCE[how], cautions, "common practice")
