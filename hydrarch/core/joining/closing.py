"""How a way goes in between two ends that neither turn nor move: the window to cut, and what is slid or drawn
up last.
"""

from __future__ import annotations

from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.fittings import Fitting, mating_method
from hydrarch.core.joining.stacks import SLIP, UNIONS, Stack

__all__ = ["closing_words"]

_NICK = 6e-3  # m: a saw cut and the dressing of both ends; a slip coupling's sockets still cover the rest; from memory


def closing_words(stack: Stack, units: System) -> str:
    """How a way closes between two held ends, with its lengths; "" for one that needs no such help."""
    for step in stack.steps:
        if step.fitting.family in UNIONS:
            return (
                "Screw or join each half of the union to its own end, holding the pipe with a back-up "
                "wrench; draw the nut up last. "
                f"The gap must take {show(stack.length, 'cut', units)} between the two stops."
            )
        if step.fitting.family == SLIP:
            return _slid(step.fitting, units)
    sliding = {"repair compression", "gripping compression", "universal compression", "shielded band"}
    if any(mating_method(a, b) in sliding for a, b in stack.ends()):
        return (
            "Nuts, rings and seals (or the sleeve and its bands) go on both pipes first; slide the body "
            "along one pipe, back over the gap, "
            "and centre it on a mark before anything is tightened."
        )
    return ""


def _slid(part: Fitting, units: System) -> str:
    covers = part.ports[0].end.engagement
    whole, half, nick = (str(show(x, "cut", units)) for x in (2 * covers, covers, _NICK))
    return (
        f"Mark both pipes {half} from their ends. Slide the coupling wholly onto one of them first: that "
        f"takes {whole} of clean, straight, dressed "
        "pipe. Cement the other pipe and the last of this one, and slide it back to both marks at once. A "
        f"cut of up to {nick} is bridged; for a "
        "longer window take two of them with a piece as long as the window, less a saw cut."
    )
