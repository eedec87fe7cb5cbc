"""How much each run is suspected before anything is read: by its joints, and what is known of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from hydrarch.core.joining.assembled import Joint
from hydrarch.core.record.states import JointState
from hydrarch.core.site.layout import Layout

__all__ = ["joint_weights"]

_DRY, _UNSEEN, _KNOWN = 10.0, 3.0, 1.0
"""How much likelier a joint leaks that is dry, or that no test proved, than one that was; from memory."""
_PIPE = 0.5
"""What a run counts for by itself, without a joint."""


def joint_weights(joints: Iterable[Joint], states: Mapping[str, JointState], lay: Layout) -> dict[str, float]:
    """How many sound joints each run counts for, by what was done to those on it; a joint at a point counts half for
    each run there.
    """
    found = dict.fromkeys(lay.lines, _PIPE)
    for j in joints:
        state = states.get(j.id)
        weight = _DRY if state is not None and state.state == "dry" else _UNSEEN
        if state is not None and state.proved:
            weight = _KNOWN
        run = j.run or (None if j.end is None else lay.run_of.get(j.end))
        runs = [run] if run in found else [r for r in lay.at.get(j.point or "", ()) if r in found]
        for r in runs:
            found[r] += weight / len(runs)
    return found
