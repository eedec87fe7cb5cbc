"""What is to be joined: a cut pipe or an open end, named by choice or in a crew's own words."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hydrarch.core.catalogue.fittings import End, end, ends, pipe_ends
from hydrarch.core.catalogue.pipes import Series, pipe, series, series_list
from hydrarch.core.errors import HydrarchError, Unknown
from hydrarch.core.units import size_is_metric

__all__ = ["PipeOrEnd", "read_things"]


@dataclass(frozen=True, slots=True)
class PipeOrEnd:
    """What is to be joined: a cut pipe (series and size), an open end by its name, or one end of a pipe by both."""

    series: str | None = None
    size: str | None = None
    end: str | None = None

    def ends(self) -> tuple[End, ...]:
        """The ends it offers; raises `Unknown` or `HydrarchError` with what is missing."""
        if self.end is not None:
            return (end(self.end),)
        family, size = self.pipe()
        offered = pipe_ends(family.id, size)
        if not offered:
            raise HydrarchError(f"no fitting of ours joins {family.name} {size}")
        return offered

    def pipe(self) -> tuple[Series, str]:
        """Its series and size; raises `HydrarchError` where it is no pipe."""
        if self.series is None or self.size is None:
            raise HydrarchError("name a pipe by series and size, or an end")
        return series(self.series), self.size

    @property
    def material(self) -> str:
        """The material of a pipe, "end" for an open end."""
        return series(self.series).material if self.series else "end"

    def words(self) -> str:
        """How a crew would say it."""
        if self.end is not None and self.series is None:
            return end(self.end).words()
        family, size = self.pipe()
        return f"{family.short} {size} pipe"


_MATERIAL_WORDS = {
    "pvc": "pvc40", "sch 40": "pvc40", "schedule 40": "pvc40", "sch40": "pvc40", "sch 80": "pvc80", "schedule 80": "pvc80",
    "sch80": "pvc80", "sch 120": "pvc120", "class 200": "pvc-sdr21", "class 160": "pvc-sdr26", "thin wall": "pvc-sdr21",
    "poly": "pe-sidr7", "sidr": "pe-sidr7", "polyethylene": "pe-sidr7", "ppr": "ppr-s2.5", "pe100": "pe100-sdr11", "mdpe": "pe100-sdr11",
    "galvanized": "galv40", "galv": "galv40", "steel": "galv40", "copper": "copper-l", "sewer": "sewer-sdr35", "sdr 35": "sewer-sdr35",
    "dwv": "dwv40", "flexible pvc": "pvc-flex", "flex": "pvc-flex", "lead": "lead", "fibre": "fibre", "fiber": "fibre",
    "corrugated": "corrugated", "vinyl": "vinyl", "rural": "pe-rural", "copper size poly": "pe-cts9", "cts": "pe-cts9",
    "ips poly": "pe-dr11", "drip": "drip-600", "metric pvc": "pvc-metric",
}  # fmt: skip
_END_WORDS = {
    ("npt", "female"): "npt:female", ("npt", "male"): "npt:male", ("parallel", "female"): "bspp:female", ("parallel", "male"): "bspp:male",
    ("bsp", "female"): "bsp:female", ("bsp", "male"): "bsp:male", ("hose", "female"): "hose:female", ("hose", "male"): "hose:male",
    ("union", "female"): "buttress:female", ("union", "male"): "buttress:male", ("tank", ""): "bulkhead:wall",
    ("side of", ""): "saddle:wall", ("deep socket", ""): "solvent:deep", ("socket", ""): "solvent:socket", ("spigot", ""): "solvent:spigot",
}  # fmt: skip
_SIZE = re.compile(r"(\d+-\d+/\d+|\d+/\d+|\d+)\s*(mm|in|inch|\")?")
_METRIC_TWIN = {"pe-sidr7": "pe100-sdr11", "pvc40": "pvc-metric"}


def read_things(text: str) -> tuple[PipeOrEnd, PipeOrEnd]:
    """Read "1 in sch 40 pipe to 1 in SIDR poly" as two things; raises `HydrarchError` saying which half is not understood."""
    halves = re.split(r"\s+(?:to|into|onto)\s+", text.strip().lower())
    if len(halves) != 2:
        raise HydrarchError("say it as 'this to that', for example '1 in sch 40 pipe to 1 in poly'")
    one, two = (_thing(h) for h in halves)
    return one, two


def _thing(text: str) -> PipeOrEnd:
    named = sorted(
        (s for s in series_list() if s.id in text.replace(" ", "-") or s.short.lower() in text), key=lambda s: len(s.short)
    )
    bare = text
    for known in named[-1:]:  # "pe sidr9 1 in": the 9 is not the size
        bare = text.replace(known.short.lower(), "").replace(known.id, "")
    for said in (
        "sch 40",
        "sch 80",
        "sch 120",
        "schedule 40",
        "schedule 80",
        "schedule 120",
        "class 200",
        "class 160",
        "sdr 35",
        "pe100",
    ):
        bare = bare.replace(said, "")
    match = _SIZE.search(bare) or (_SIZE.search(text) if not named else None)
    if match is None:
        raise HydrarchError(f"'{text}' names no size; write it as 3/4 in or 32 mm")
    size = match.group(1)
    for (system, gender), name in _END_WORDS.items():
        if system in text and gender in text:
            return PipeOrEnd(end=_known_end(f"{name}:{size}"))
    words = sorted((w for w in _MATERIAL_WORDS if w in text), key=len, reverse=True)
    found = named[-1].id if named else _MATERIAL_WORDS[words[0]] if words else None
    if found is None:
        raise HydrarchError(f"'{text}' names no pipe or end we know; say sch 40, poly, PPR, NPT female and so on")
    if size_is_metric(size):
        found = _METRIC_TWIN.get(found, found)
    pipe(found, size)
    return PipeOrEnd(series=found, size=size)


def _known_end(name: str) -> str:
    if name not in ends():
        raise Unknown("end", name, ends())
    return name
