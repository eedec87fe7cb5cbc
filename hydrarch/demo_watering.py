"""Where Thistledown Camp is watered: the tent meadow's six heads with two hydrants, and the herb beds' drip from a hose
tap. All made up.
"""

from __future__ import annotations

import time
import uuid

from hydrarch.core.components.base import What
from hydrarch.core.components.devices import BackflowPreventer, Valve
from hydrarch.core.components.lines import Bend, Junction
from hydrarch.core.components.marks import Mark
from hydrarch.core.components.outlets import Hydrant, Sprinkler
from hydrarch.core.components.sources import Mains
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.drip_beds import bedded
from hydrarch.core.editing.drip_head import drip_head
from hydrarch.core.editing.set_nozzle import nozzled
from hydrarch.core.plan.document import Conditions, Plan, Point, Scenario
from hydrarch.core.plan.watering import Watering, Zone
from hydrarch.core.record.events import Event, EventKind
from hydrarch.core.record.states import mark_joints
from hydrarch.demo import drawn

__all__ = ["BEDS_ID", "MEADOW_ID", "herb_beds", "partly_made", "tent_meadow"]

MEADOW_ID = "thistledown-meadow"
BEDS_ID = "thistledown-beds"
_HEADS = ("S1", "S2", "S3", "S4", "S5", "S6")


def tent_meadow() -> Plan:
    """A main that parts to two branches, each with its valve: a loop of six heads fed at both ends, and a hydrant;
    another before them.
    """
    spots: tuple[tuple[str, str, float, float, float, What], ...] = (
        ("M", "Camp main", 0, 0, 208.0, Mains(pressure=450e3, flowing=1.6e-3, flowing_pressure=410e3)),
        ("BP", "Preventer", 3, 0, 208.0, BackflowPreventer()),
        ("J1", "Store tee", 14, 0, 208.2, Junction()),
        ("Y1", "Store hydrant", 14, -5, 208.1, Hydrant()),
        ("J2", "Parting", 24, 0, 208.4, Junction()),
        ("VN", "North valve", 24, 5, 208.5, Valve(worked="by wire")),
        ("BN", "Hedge bend", 24, 20, 208.9, Bend()),
        ("J3", "Loop tee", 30, 20, 209.0, Junction()),
        ("C1", "North-west corner", 30, 26, 209.2, Bend()),
        ("S1", "Head 1", 36, 26, 209.3, Sprinkler()),
        ("S2", "Head 2", 47, 26, 209.5, Sprinkler()),
        ("S3", "Head 3", 58, 26, 209.7, Sprinkler()),
        ("C2", "North-east corner", 64, 26, 209.8, Bend()),
        ("C3", "South-east corner", 64, 15, 209.5, Bend()),
        ("S4", "Head 4", 58, 15, 209.4, Sprinkler()),
        ("S5", "Head 5", 47, 15, 209.2, Sprinkler()),
        ("S6", "Head 6", 36, 15, 209.0, Sprinkler()),
        ("C4", "South-west corner", 30, 15, 208.9, Bend()),
        ("VS", "South valve", 28, 0, 208.4, Valve()),
        ("Y2", "Tent hydrant", 50, 0, 208.6, Hydrant()),
        ("K", "Controller", 1, 3, 208.0, Mark(what="controller")),
        ("SC", "Store corner", 15, 8, 208.3, Mark()),
        ("GP", "Gate post", 44, 7, 208.9, Mark(what="post")),
    )
    ends = (
        "M BP",
        "BP J1",
        "J1 Y1",
        "J1 J2",
        "J2 VN",
        "VN BN",
        "BN J3",
        "J3 C1",
        "C1 S1",
        "S1 S2",
        "S2 S3",
        "S3 C2",
        "C2 C3",
        "C3 S4",
        "S4 S5",
        "S5 S6",
        "S6 C4",
        "C4 J3",
        "J2 VS",
        "VS Y2",
    )
    things = {i: what for i, *_, what in spots}
    plan = Plan(
        name="Thistledown Camp, tent meadow",
        units="metric",
        about="sprinklers",
        conditions=Conditions(
            weather="said", air_temperature=273.15 + 12, humidity=0.6, market="north-american", soil="sandy-loam"
        ),
        points=tuple(
            Point(id=i, name=name, x=float(x), y=float(y), ground=g, depth=0.0 if isinstance(w, Mark) else 0.45, what=w)
            for i, name, x, y, g, w in spots
        ),
        runs=tuple(drawn(f"T{n}", e.split()[0], e.split()[1], things, series="pvc40") for n, e in enumerate(ends, 1)),
        scenarios=(
            Scenario(id="heads", name="Six heads", open=_HEADS),
            Scenario(id="drawn", name="Both hydrants", open=("Y1", "Y2")),
        ),
        zones=(Zone(id="meadow", name="Tent meadow", heads=_HEADS, valve="VN"),),
        watering=Watering(plants="cool-lawn", latitude=54.0),
    )
    return nozzled(plan, _HEADS, "R-4").plan


def herb_beds() -> Plan:
    """A hose tap with the head of a drip line screwed to it, and two beds of rows behind a tee."""
    tap = Mains(pressure=400e3, flowing=3e-4, flowing_pressure=330e3)
    marks = (
        ("A", 4.0, 1.8),
        ("B", 4.0, 0.6),
        ("C", 10.0, 0.6),
        ("D", 10.0, 1.8),
        ("E", 4.0, -0.6),
        ("F", 4.0, -1.8),
        ("G", 10.0, -1.8),
        ("H", 10.0, -0.6),
    )
    plan = Plan(
        name="Thistledown Camp, herb beds",
        units="metric",
        about="drip",
        conditions=Conditions(
            weather="said",
            air_temperature=273.15 + 14,
            humidity=0.6,
            market="north-american",
            soil="loam",
            series="drip-620",
        ),
        points=(
            Point(id="M", name="Hose tap", x=0.0, y=0.0, ground=206.0, depth=-0.6, what=tap),
            *(Point(id=i, name=f"Corner {i}", x=x, y=y, ground=206.0, depth=0.0, what=Mark()) for i, x, y in marks),
        ),
    )
    head = drip_head(plan, "M")
    first = bedded(head.plan, ("A", "B", "C", "D"), 0.4, 0.3, 2e-3 / 3600)
    second = bedded(first.plan, ("E", "F", "G", "H"), 0.4, 0.3, 2e-3 / 3600)
    draft = Draft(second.plan)
    tee = draft.add_point("J", x=4.0, y=0.0, ground=206.0, depth=0.0, what={"kind": "bend"})
    draft.spots[tee]["name"] = "Bed tee"
    draft.add_run(head.chosen[-1], tee)
    draft.add_run(tee, first.chosen[-2])  # the foot of the row that is nearest
    draft.add_run(tee, second.chosen[0])
    for body in draft.body["runs"]:
        if not body.get("coupled"):
            body["situation"] = "on surface"
    rows = {n: [p for p in bed.chosen if p.startswith("E")] for n, bed in (("north", first), ("south", second))}
    draft.body["zones"] = [
        {"id": n, "name": f"{n.title()} bed", "heads": heads, "valve": ""} for n, heads in rows.items()
    ]
    draft.body["watering"] = Watering(plants="shrubs", latitude=54.0).model_dump(mode="json")
    return draft.plan()


def partly_made(plan: Plan, share: float, dry: int, by: str, now: float | None = None) -> list[Event]:
    """So much of the joints of a plan made in their order, and a few after them fitted dry."""
    derived = derive(plan)
    start = (time.time() if now is None else now) - 5 * 3600
    joints, events = derived.assembly.named, []
    order = [t.joint for t in derived.work.tasks if joints[t.joint].role != "head"]
    made = round(share * len(order))
    for n, joint in enumerate(order[: made + dry]):
        kind: EventKind = "made" if n < made else "dry_fitted"
        name = str(uuid.uuid5(uuid.NAMESPACE_OID, f"{plan.name} {kind} {joint}"))
        events.append(
            Event(
                id=name,
                kind=kind,
                at=start + 120 * n,
                by=by,
                joints=mark_joints(joints.values(), [joint], {}, place=True),
            )
        )
    return events
