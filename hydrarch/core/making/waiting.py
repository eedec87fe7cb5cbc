"""When a joint may be handled, filled and tested, by every school side by side: the bench's question with no job at
all.
"""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.units import System
from hydrarch.core.catalogue.guidance import Caution, cautioned_at, cautions_for, practices
from hydrarch.core.catalogue.methods import method, methods
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.making.cure import cure_time
from hydrarch.core.making.steps import fusion_times, fusion_wait, hold_time

__all__ = ["SchoolWait", "Waits", "waiting_methods", "waits"]

_QUESTION = "cure"


def waiting_methods() -> dict[str, tuple[str, ...]]:
    """The methods to ask about, with the sizes that make a difference: none where nothing sets."""
    welds, fused = (tuple(p.size for p in series(name).sizes) for name in ("pvc40", "ppr-s2.5"))
    return {"solvent weld": welds, "socket fusion": fused, **{m.name: () for m in methods().values() if m.wait}}


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
    """How long (s) a joint is left alone (`hold` in the hands, `set` before it is let go, `handle` before it is
    lifted), and what each school asks before water.
    """

    method: str
    hold: float
    set: float
    handle: float
    schools: tuple[SchoolWait, ...]
    says: str
    cautions: tuple[Caution, ...]
    source: str


def waits(how: str, size: str, temperature: float, humidity: float, pressure: float, units: System = "metric") -> Waits:
    """The waits of a joint made by method `how` at the lowest `temperature` (K) to come, for a test at `pressure` (Pa).

    Raises `Unknown` for a method, `OutOfRange` as `cure_time` does.
    """
    cautions = cautions_for(*cautioned_at(how, ()), "test")
    if how == "solvent weld":
        table = cure_time(size, temperature, humidity, pressure, "table", units)
        practice, found = practices()[_QUESTION], []
        for option in practice.options:
            clock = cure_time(size, temperature, humidity, pressure, option.option, units)
            own = option.option != "table" and clock.cure <= table.cure + 1e-9
            found.append(
                SchoolWait(
                    option=option.option,
                    says=option.says,
                    reason=option.reason,
                    usual=option.option == practice.default,
                    fill=clock.fill,
                    test=clock.cure,
                    floored=own,
                )
            )
        says = (
            f"{table.says}. The table's own figure is the least: in cold and damp crews wait an hour or two, "
            "since it costs nothing to be late. The can's own chart wins"
        )
        return Waits(
            method=how,
            hold=hold_time(size),
            set=table.set,
            handle=table.handle,
            schools=tuple(found),
            says=says,
            cautions=cautions,
            source=f"{table.source}; holding: common practice",
        )
    if how == "socket fusion":
        clock, times = fusion_wait(size), fusion_times(size)
        school = SchoolWait(
            option="table",
            says="the fusion table",
            reason="The maker's own guide wins.",
            usual=True,
            fill=clock.fill,
            test=clock.cure,
            floored=False,
        )
        return Waits(
            method=how,
            hold=times["fix"],
            set=clock.set,
            handle=clock.handle,
            schools=(school,),
            says=f"hold it still; {clock.says}",
            cautions=cautions,
            source=clock.source,
        )
    known = method(how)
    school = SchoolWait(option="none", says="no wait", reason="", usual=True, fill=0.0, test=0.0, floored=False)
    return Waits(
        method=how,
        hold=0.0,
        set=0.0,
        handle=0.0,
        schools=(school,),
        says=known.wait,
        cautions=cautions,
        source="common practice",
    )
