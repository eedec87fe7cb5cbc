"""Thistledown Camp, the invented upland campsite that the demo opens with. All of it is made up.

Each job is a file in the product's own open form, as anyone may export and import it. Their times go by one moment,
`AS_OF`: put in, a job is moved so that this moment is now.
"""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from importlib.resources import files

from hydrarch.core.plan.document import Plan
from hydrarch.core.practice.attempt import Attempt
from hydrarch.core.record.events import Event
from hydrarch.formats.jobfile import JobFile, read_job_file

__all__ = [
    "AS_OF",
    "BEDS_ID",
    "DEMO_ID",
    "GATE_ID",
    "HERBS_ID",
    "JOBS",
    "MEADOW_ID",
    "PRACTISER",
    "POND_ID",
    "RISERS_ID",
    "TANK_ID",
    "TUB_ID",
    "WASH_ID",
    "YARD_ID",
    "cedar_tub",
    "demo_attempts",
    "demo_events",
    "demo_job",
    "drying_yard",
    "gate_service",
    "herb_bank",
    "herb_beds",
    "show_tank",
    "swimming_pond",
    "tent_meadow",
    "thistledown",
    "wash_block",
    "wash_risers",
]

DEMO_ID = "thistledown"
HERBS_ID = "thistledown-herbs"
YARD_ID = "thistledown-yard"
MEADOW_ID = "thistledown-meadow"
BEDS_ID = "thistledown-beds"
POND_ID = "thistledown-pond"
TUB_ID = "thistledown-tub"
TANK_ID = "thistledown-tank"
WASH_ID = "thistledown-wash"
RISERS_ID = "thistledown-risers"
GATE_ID = "thistledown-gate"
JOBS = (GATE_ID, RISERS_ID, WASH_ID, BEDS_ID, MEADOW_ID, TANK_ID, TUB_ID, POND_ID, YARD_ID, HERBS_ID, DEMO_ID)
"""The demo's jobs, the first that anyone looks at last."""

AS_OF = 1767261600.0
"""The moment (s since 1970) that the files' times go by: the first of January 2026, ten in the morning, UTC."""


PRACTISER = "crew"
"""Whose practice the demo shows: whoever sits down at it without a name."""


def demo_attempts(now: float) -> list[Attempt]:
    """Two exercises that were begun and one that was ended, as if `now` (s since 1970) were the moment of putting them
    in.
    """
    later = now - AS_OF
    found = []
    for file in sorted(files(__name__).joinpath("practice").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".json"):
            one = Attempt.model_validate_json(file.read_text("utf-8"))
            moved = {
                name: at + later for name in ("begun", "changed", "ended") if (at := getattr(one, name)) is not None
            }
            made = tuple(m.model_copy(update={"at": tuple(a + later for a in m.at)}) for m in one.made)
            found.append(one.model_copy(update={**moved, "made": made}))
    return found


@cache
def demo_job(name: str) -> JobFile:
    """A demo job as its file has it; raises FileNotFoundError for no such job."""
    return read_job_file(files(__name__).joinpath("jobs", f"{name}.json").read_text("utf-8"))


def demo_events(name: str, now: float) -> list[Event]:
    """What was done in a demo job, as if `now` (s since 1970) were the moment of putting it in."""
    later = now - AS_OF

    return [
        replace(e, at=e.at + later, ended=None if e.ended is None else e.ended + later) for e in demo_job(name).events
    ]


def thistledown() -> Plan:
    """The meadow line: a well pump, a buried polyethylene main, two standpipe taps and a loop of four sprinklers."""
    return demo_job(DEMO_ID).plan


def herb_bank() -> Plan:
    """The herb bank: a rain tank, a booster with its pressure vessel, a filter and a regulator, two drip zones and a
    tap.
    """
    return demo_job(HERBS_ID).plan


def drying_yard() -> Plan:
    """The drying yard: two gullies and a washing-up trough that drain to a ditch, in sewer pipe that carts
    drive over.
    """
    return demo_job(YARD_ID).plan


def tent_meadow() -> Plan:
    """A main that parts to two branches, each with its valve: a loop of six heads fed at both ends, and a hydrant;
    another before them.
    """
    return demo_job(MEADOW_ID).plan


def herb_beds() -> Plan:
    """A hose tap with the head of a drip line screwed to it, and two beds of rows behind a tee."""
    return demo_job(BEDS_ID).plan


def swimming_pond() -> Plan:
    """A pond to swim in, with a skimmer and two bottom drains to a pump house, a filter, and three returns."""
    return demo_job(POND_ID).plan


def cedar_tub() -> Plan:
    """A round tub of cedar with two suctions, six large jets on a ring, a filter and a heater, and air from a blower
    over its loop.
    """
    return demo_job(TUB_ID).plan


def show_tank() -> Plan:
    """A tank on a stand over its sump in the reception: two standpipes by their fall, a return under pump with
    unions.
    """
    return demo_job(TANK_ID).plan


def wash_block() -> Plan:
    """The wash block: two downpipes and a cellar pit with a battery pump to a soakaway, and a washer whose water goes
    to two beds or to the septic tank. The lowest drain is laid, with its levels read.
    """
    return demo_job(WASH_ID).plan


def wash_risers() -> Plan:
    """The wash block's risers: a weak main and its booster, a heater with its relief valve and tank, cold and hot to a
    scullery, a bathroom and one in the loft, fused in part.
    """
    return demo_job(RISERS_ID).plan


def gate_service() -> Plan:
    """A changeover under way at the farmhouse gate: lead to polyethylene, a hose from the barn meanwhile."""
    return demo_job(GATE_ID).plan
