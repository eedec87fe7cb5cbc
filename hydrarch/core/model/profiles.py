"""Half sections of openings and pipe: what is revolved about an axis to a solid.

A profile is a closed outline of (along the axis from the centre outward, radius), in metres.
"""

from __future__ import annotations

from hydrarch.core.catalogue.fittings import End
from hydrarch.core.cutting.shop import WALL_SHARE

__all__ = ["Profile", "bore_radius", "opening_core", "opening_shell", "outer_radius"]

Profile = tuple[tuple[float, float], ...]
_THREADS = frozenset({"npt", "bsp", "bspp", "hose", "buttress"})
_TEETH = 4  # barbs on an insert; from memory
_THREAD_DEEP = 0.6  # of the pitch: how deep a thread is cut; about that of taper pipe threads
_USUAL_PITCH = 0.0018  # m, where an end does not say its own
_LEAST_WALL, _WALL = 0.0016, 0.09  # m, and share of the diameter: wall of a body where nothing is known; from memory
_MORE = 1.0  # m beyond a mouth that a bore is cut; any length that is longer than a fitting


def outer_radius(opening: End) -> float:
    """The radius (m) of a body about an opening: as wide as what goes in itself, or the wall of a socket wider."""
    return opening.diameter / 2 * (1.0 if opening.enters else 1 + WALL_SHARE)


def bore_radius(opening: End) -> float:
    """The radius (m) of the water way behind an opening: a wall less than the joint's own diameter."""
    wall = max(_LEAST_WALL, _WALL * opening.diameter)
    return max(opening.diameter / 2 - wall, 0.3 * opening.diameter)


def opening_shell(opening: End, stop: float) -> Profile:
    """The solid about an opening from the centre to its mouth, without its bore; `stop` (m) is from the centre.

    A socket reaches over what goes into it; a spigot, male thread or barb ends at its stop, which is its own tip.
    """
    if not opening.enters:
        return (
            (0.0, 0.0),
            (stop + opening.engagement, 0.0),
            (stop + opening.engagement, outer_radius(opening)),
            (0.0, outer_radius(opening)),
        )
    root = stop - opening.engagement
    back = min(root, 0.0)  # what goes in may begin behind the centre, as a bushing's spigot does
    crests = tuple(reversed(_crests(opening, root, stop)))
    return ((back, 0.0), (stop, 0.0), *crests, (back, opening.diameter / 2))


def _crests(opening: End, start: float, stop: float) -> Profile:
    """The outside of what goes in, from `start` to its tip: smooth, threaded or barbed."""
    radius, long = opening.diameter / 2, stop - start
    if opening.gender in ("insert", "barb"):
        tooth = long / _TEETH
        return tuple(
            place
            for n in range(_TEETH)
            for place in ((start + n * tooth, radius), (start + (n + 0.9) * tooth, radius * 0.9))
        )
    if opening.system in _THREADS:
        return tuple(_thread(opening, start, stop, radius))
    return ((start, radius), (stop, radius))


def _thread(opening: End, start: float, stop: float, radius: float) -> list[tuple[float, float]]:
    pitch = 0.0254 / opening.threads_per_inch if opening.threads_per_inch else _USUAL_PITCH
    count = max(1, round((stop - start) / pitch))
    pitch = (stop - start) / count
    deep = min(_THREAD_DEEP * pitch, 0.1 * radius)
    return [p for n in range(count) for p in ((start + n * pitch, radius - deep), (start + (n + 0.5) * pitch, radius))]


def opening_core(opening: End, stop: float, bore: float) -> Profile:
    """What is taken out of an opening: its bore from the centre outward, and a socket or female thread down to its
    floor.
    """
    if opening.enters:
        return ((0.0, 0.0), (stop + _MORE, 0.0), (stop + _MORE, bore), (0.0, bore))
    mouth, radius = stop + opening.engagement, opening.diameter / 2
    inside: Profile = ((stop, radius), (mouth, radius))
    if opening.system in _THREADS:
        inside = (*_thread(opening, stop, mouth, radius), (mouth, radius))
    return (
        (0.0, 0.0),
        (mouth + _MORE, 0.0),
        (mouth + _MORE, inside[-1][1]),
        *reversed(inside),
        (stop, bore),
        (0.0, bore),
    )
