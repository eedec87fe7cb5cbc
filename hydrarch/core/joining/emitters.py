"""The small joints of a drip row: holes punched, feeders pushed on, emitters set.

Alike ones are one joint with a count.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hydrarch.core.base.identity import row_joint
from hydrarch.core.catalogue.fittings import end, mating_method
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.hydraulics.spread import row_runs
from hydrarch.core.joining.assembled import Joint, Side
from hydrarch.core.plan.document import Plan

__all__ = ["emitter_joints"]

_HOLE, _BARB = "punch:hole:1/4", "punch:barb:1/4"
_TUBE, _INSERT = "drip-170:bore:1/4", "drip-170:insert:1/4"


def emitter_joints(plan: Plan, pipes: Mapping[str, Pipe]) -> Iterator[Joint]:
    """What is pushed together along every row whose emitters are not in its tubing; none of rows that were there
    before.

    They are made after flushing, as heads are, and seen at work.
    """
    for point in plan.points:
        what = point.what
        if not isinstance(what, DripRow) or what.built == "in line" or point.existing is not None:
            continue
        runs = [r for r in row_runs(plan, point.id)[1] if r.id in pipes]
        if not runs:
            continue
        item, count = pipes[runs[-1].id], what.emitters
        tubing = Side(f"{series(item.series).short} {item.size} tubing", _HOLE, pipe=f"{item.series} {item.size}")
        many = f"{count} " if count > 1 else ""
        more = "s" if count > 1 else ""
        feeder = Side(f"quarter-inch feeder{more}", _TUBE)
        if what.built == "on the tubing":
            pairs = [(Side(f"{many}emitter{more}", _BARB, fitting="emitter"), tubing)]
        else:
            pairs = [
                (Side(f"{many}feeder barb{more}", _BARB, fitting="punch-transfer"), tubing),
                (Side(f"{many}feeder{more}", _TUBE), Side(f"their barb{more}", _INSERT, fitting="punch-transfer")),
                (Side(f"{many}emitter{more}", _INSERT, fitting="emitter"), feeder),
            ]
        for number, (a, b) in enumerate(pairs, 1):
            yield Joint(
                id=row_joint(point.id, number),
                also=None,
                role="head",
                point=point.id,
                end=None,
                run=None,
                number=number,
                method=mating_method(end(a.end), end(b.end)) or "",
                size="1/4",
                a=a,
                b=b,
                depth=end(a.end).engagement,
                place=point.label,
                towards="",
                count=count,
            )
