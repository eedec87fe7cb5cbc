"""A new pipe in the place of an old one that stays in use until a changeover, and the temporary loop meanwhile."""

from __future__ import annotations

from collections.abc import Sequence

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.base.identity import new_id
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.plan.references import without
from hydrarch.core.site.layout import layout

__all__ = ["new_service", "temporary_loop"]


def new_service(plan: Plan, run: str) -> Edited:
    """Lay new pipe of the job's own along an existing run, and along those that go on from it without a branch.

    The old pipe is one length then that leaves, from the first thing on its way to the last; the new has ids of its
    own, so that no record of the old is read as one of the new. Raises `HydrarchError` where the run does not exist
    already, `Unknown` where there is none.
    """
    if run not in plan.run_by_id:
        raise Unknown("run", run, plan.run_by_id)
    first = plan.run_by_id[run]
    if first.existing is None or first.coupled:
        raise HydrarchError("only pipe that exists already is taken out of service: mark the run as existing first")
    way = _chain(plan, first)
    lengths = layout(plan).lines
    ends = _outer(plan, way)
    if len(ends) != 2:
        raise HydrarchError("this pipe is a closed ring: take a run of it out of service that leads somewhere")
    kept = {r.id: r.model_dump(mode="json") for r in way}
    body = without(plan.model_dump(mode="json"), [r.id for r in way])
    draft = Draft(body)
    inside = {p for r in way for p in r.points} - {p for p, _ in ends}
    for name in inside:
        draft.spots = {p["id"]: p for p in body["points"]}
        draft.spots[name]["existing"] = None
    made = []
    for old in kept.values():
        fresh = {**old, "id": new_id("R"), "existing": None, "series": None, "size": None, "measured_length": None}
        fresh |= {side: {**old[side], "id": new_id("E")} for side in ("a", "b")} | {"closed": 0.0}
        body["runs"].append(fresh)
        made.append(fresh["id"])
    (a, at), (b, to) = ends
    body["leaving"].append(
        {
            "id": new_id("L"),
            "what": "old",
            "a": {"id": new_id("E"), "point": a, "port": at},
            "b": {"id": new_id("E"), "point": b, "port": to},
            "series": first.series,
            "size": first.size,
            "length": round(sum(lengths[r.id].length for r in way), 4) if all(r.id in lengths for r in way) else None,
            "pressure": 0.0,
            "note": first.existing.known,
        }
    )
    says = f"New pipe from {plan.names[a]} to {plan.names[b]}. The old one stays in use until the changeover: see Make."
    return Edited(draft.plan(), tuple(made), says)


def temporary_loop(plan: Plan, chosen: Sequence[str]) -> Edited:
    """Hang a temporary loop on a thing: from a supply that is not on the drawing, or from the first of two things to
    the second.

    Raises `Unknown` where a thing is not there.
    """
    for name in chosen[:2]:
        if name not in plan.by_id:
            raise Unknown("thing", name, plan.by_id)
    ends = [{"id": new_id("E"), "point": p, "port": ""} for p in dict.fromkeys(chosen[:2])]
    body = plan.model_dump(mode="json")
    body["leaving"].append({"id": new_id("L"), "what": "loop", "a": ends[0], "b": ends[1] if len(ends) == 2 else None})
    where = " and ".join(plan.names[e["point"]] for e in ends)
    return Edited(Draft(body).plan(), (), f"A temporary loop at {where}. Enter its size, length and pressure.")


def _chain(plan: Plan, first: Run) -> list[Run]:
    """The existing runs of the same pipe that a run goes on in, through plain places where nothing branches."""
    found = {first.id: first}
    ahead = list(first.points)
    while ahead:
        place = ahead.pop()
        here = [r for r in plan.runs if place in r.points]
        if not plan.by_id[place].kind.plain or len(here) != 2:
            continue
        for r in here:
            same = r.existing is not None and not r.coupled and (r.series, r.size) == (first.series, first.size)
            if r.id not in found and same:
                found[r.id] = r
                ahead += r.points
    return [r for r in plan.runs if r.id in found]


def _outer(plan: Plan, way: Sequence[Run]) -> list[tuple[str, str]]:
    """The things at both ends of a chain of runs, each with the port it comes to."""
    at: dict[str, list[str]] = {}
    for r in way:
        for e in r.ends:
            at.setdefault(e.point, []).append(plan.port_name(e))
    return [(p, ports[0]) for p, ports in at.items() if len(ports) == 1]
