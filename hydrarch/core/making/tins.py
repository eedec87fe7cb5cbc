"""Tins of cement and primer by their dates: old cement gels and does not bite."""

from __future__ import annotations

import numpy as np

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.plan.document import Plan

__all__ = ["old_tins"]

declare("make", "old-tin", "tin-ahead")

_SHELF_YEARS = {"cement": 2, "primer": 3}
"""Shelf life of an unopened tin, from memory; the date on the tin wins."""


def old_tins(plan: Plan, now: float) -> tuple[Problem, ...]:
    """A problem for every dated tin older at `now` (s since 1970) than its kind keeps."""
    today = int(np.datetime64(int(now), "s").astype("datetime64[M]").astype(int))  # whole months since January 1970
    found = []
    for tin in plan.tins:
        year, month = (int(x) for x in tin.dated.split("-"))
        months = today - ((year - 1970) * 12 + month - 1)
        if months > 12 * _SHELF_YEARS[tin.what]:
            found.append(tell("old-tin", "", tin=tin.what, dated=tin.dated, years=months // 12, months=months % 12))
        elif months < -1:
            found.append(tell("tin-ahead", "", tin=tin.what, dated=tin.dated))
    return tuple(found)
