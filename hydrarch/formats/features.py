"""What maps are told of a job: each run, thing and hidden joint with where it is and what is known of it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.as_laid import AsLaid

__all__ = ["Feature", "features", "pipe_of", "said_when"]


@dataclass(frozen=True, slots=True)
class Feature:
    """One thing on a map: its `kind` (run, thing, joint), its `places` on the drawing (m east, north, up; one of a
    point, two of a line) and what is `told` of it, by name.
    """

    id: str
    kind: str
    name: str
    places: tuple[tuple[float, float, float], ...]
    told: dict[str, Any]


def features(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> Iterator[Feature]:
    """Runs, then things, then hidden joints."""
    for run in plan.runs:
        a, b = plan.by_id[run.a.point], plan.by_id[run.b.point]
        choice = derived.sizes.choices.get(run.id)
        told: dict[str, Any] = {
            "from": plan.names[a.id],
            "to": plan.names[b.id],
            "situation": run.situation,
            "pipe": pipe_of(plan, derived, run.id),
            "size": choice.size if choice else "",
            "depth_from_m": round(a.depth, 3),
            "depth_to_m": round(b.depth, 3),
            "met": run.existing is not None,
        }
        name = f"{told['pipe']} {told['size']}".strip()
        yield Feature(run.id, "run", name, ((a.x, a.y, a.level), (b.x, b.y, b.level)), told)
    for p in plan.points:
        told = {
            "what": p.kind.title,
            "ground_m": round(p.ground, 3),
            "depth_m": round(p.depth, 3),
            "met": p.existing is not None,
        }
        yield Feature(p.id, "thing", plan.names[p.id], ((p.x, p.y, p.level),), told)
    for j in laid:
        told = {
            "place": j.place,
            "method": j.method,
            "size": j.size,
            "situation": j.situation,
            "depth_m": round(j.depth, 3),
            "by": j.by,
            "made": said_when(j.at),
            "proved": said_when(j.proved_at),
            "state": j.state,
            "measured": [{"from": t.name, "m": round(t.distance, 3)} for t in j.tapes],
        }
        yield Feature(j.joint, "joint", f"{j.method} at {j.place}", ((j.x, j.y, j.level),), told)


def said_when(at: float | None) -> str | None:
    """A moment (s since 1970) in UTC as programs read it; None for none."""
    return None if at is None else datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def pipe_of(plan: Plan, derived: Derivation, run: str) -> str:
    """The short name of the pipe of a run."""
    choice = derived.sizes.choices.get(run)
    name = (choice.series if choice else None) or plan.run_by_id[run].series or plan.conditions.series
    return series(name).short
