"""Tins of cement and primer by their dates: old cement gels and does not bite."""

from __future__ import annotations

import numpy as np

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
            found.append(
                Problem(
                    code="old-tin",
                    severity="warn",
                    where="",
                    says=f"The {tin.what} of {tin.dated} is {months // 12} years and {months % 12} months old.",
                    mend="Stir it: if it is stringy or lumpy, throw it away; thinner does not bring it back.",
                )
            )
        elif months < -1:
            found.append(
                Problem(
                    code="tin-ahead",
                    severity="note",
                    where="",
                    says=f"The {tin.what} is dated {tin.dated}, which is still to come.",
                    mend="Look at the tin again.",
                )
            )
    return tuple(found)
