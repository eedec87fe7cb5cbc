"""Questions of size, length and time in a crew's own words: "8 gpm over 1000 ft of SIDR 15, 30 ft up, 60 psi at the
foot, 20 psi wanted", "3/4 sch 40, 38 °F, 85 % damp, 60 psi; when full test".

Each is answered by the same function as the bench's own form, in the units it was said in, and every figure is read
back; a figure that is wanting is asked for, never assumed.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from math import radians, sin, tan

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT, GALLON, INCH, PSI, System, show
from hydrarch.core.catalogue.fittings import end, fittings, mates_of, pipe_end
from hydrarch.core.catalogue.pipes import HUNG, laid_rating, pipe, series, thread_end
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.spoken import plain, read_series, read_size, read_thing
from hydrarch.core.joining.vocabulary import known_word, tidy
from hydrarch.core.making.waiting import waits
from hydrarch.core.sizing.one_line import LineQuestion, line_sizes

__all__ = ["Figured", "figured"]

_OWN = frozenset(
    [
        "over",
        "up",
        "down",
        "rise",
        "rises",
        "falls",
        "falling",
        "foot",
        "end",
        "start",
        "wanted",
        "wants",
        "want",
        "left",
        "hand",
        "shut-off",
        "shutoff",
        "head",
        "well",
        "deep",
        "two",
        "offset",
        "elbows",
        "elbow",
        "bends",
        "bend",
        "when",
        "how",
        "long",
        "test",
        "full",
        "pressure",
        "damp",
        "humid",
        "humidity",
        "fused",
        "now",
        "water",
        "wait",
        "readings",
        "reading",
        "equal",
        "tight",
        "leak",
        "leaks",
        "leaking",
        "four",
        "three",
        "five",
        "six",
        "ten",
        "it",
        "is",
        "may",
        "take",
        "until",
        "cure",
        "cured",
        "weld",
        "pump",
        "through",
        "along",
        "needed",
        "needs",
        "at",
        "the",
        "of",
        "for",
        "a",
        "an",
        "in",
        "and",
        "high",
        "higher",
        "lower",
        "long",
        "must",
        "have",
        "available",
    ]
)
_ROOM = 288.15
"""Water in a well where nobody says (K): 15 °C, common practice."""


@dataclass(frozen=True, slots=True)
class Figured:
    """An answer to a question of figures: the bench's question it is (`bench`, by the name in its address), what comes
    first, what it rests on, what was read of the words, and the words nothing was read from.
    """

    bench: str
    first: str
    says: tuple[str, ...]
    read: tuple[str, ...]
    ignored: tuple[str, ...] = ()


_UNITS: tuple[tuple[str, str, float], ...] = (
    (r"(?:us )?(?:gal(?:lons?)?(?:/| (?:per|a) )min(?:ute)?|gpm)", "flow", GALLON / 60),
    (r"l(?:it(?:re|er)s?)?(?:/| (?:per|a) )min(?:ute)?|lpm", "flow", 1e-3 / 60),
    (r"l(?:it(?:re|er)s?)?(?:/| (?:per|a) )s(?:ec(?:ond)?)?", "flow", 1e-3),
    (r"m(?:3|³)(?:/| (?:per|an) )h(?:our)?", "flow", 1 / 3600),
    (r"psi", "pressure", PSI),
    (r"kpa", "pressure", 1e3),
    (r"bar", "pressure", 1e5),
    (r"ft|foot|feet|'", "length", FOOT),
    (r"in(?:ch(?:es)?)?|\"", "short", INCH),
    (r"mm", "short", 1e-3),
    (r"cm", "short", 1e-2),
    (r"m(?:et(?:re|er)s?)?", "length", 1.0),
    (r"%", "share", 0.01),
    (r"s(?:ec(?:onds?)?)?", "time", 1.0),
    (r"min(?:utes?)?", "time", 60.0),
)
_FLOW = r"\b(?:gpm|gal\w*(?:/| (?:per|a) )min|l(?:it\w+)?(?:/| (?:per|a) )(?:min\w*|s\b)|lpm|m[3³](?:/| (?:per|an) )h)"
_NUMBER = r"(\d+[\s-]+\d+/\d+|\d+/\d+|\d[\d,]*(?:\.\d+)?|\.\d+)"
_FIGURE = re.compile(
    rf"(?<![\d/.]){_NUMBER}\s*(?:(?P<degrees>°\s*[cf]|degrees? [cf])|"
    + "|".join(f"(?P<u{n}>{pattern})" for n, (pattern, _, _) in enumerate(_UNITS))
    + r")(?![a-z/³3])"
)


_AMERICAN = re.compile(r"gal|gpm|psi|f(?:t|oot|eet)\b|(?<![a-z])in(?:ch(?:es)?)?$|['\"]|°\s*f|degrees? f")


@dataclass(frozen=True, slots=True)
class _Figure:
    quantity: str
    value: float
    said: str
    after: str
    before: str


def _figures(text: str) -> list[_Figure]:
    """The figures of a text with a unit, in SI, with the words on both sides of each as far as the next."""
    found = list(_FIGURE.finditer(text))
    figures = []
    for n, m in enumerate(found):
        number = m.group(1).replace(",", "")
        whole = sum(float(a) / float(b or 1) for a, _, b in (p.partition("/") for p in re.split(r"[\s-]+", number)))
        after = text[m.end() : found[n + 1].start() if n + 1 < len(found) else len(text)]
        before = text[found[n - 1].end() if n else 0 : m.start()]
        if m["degrees"]:
            kelvin = whole + 273.15 if m["degrees"].endswith("c") else (whole + 459.67) * 5 / 9
            figures.append(_Figure("temperature", kelvin, m[0], after, before))
            continue
        which = next(i for i in range(len(_UNITS)) if m[f"u{i}"])
        figures.append(_Figure(_UNITS[which][1], whole * _UNITS[which][2], m[0], after, before))
    return figures


_Answer = tuple[Figured, tuple[_Figure, ...]]
"""An answer, and the figures of the question it was worked out with."""


def figured(text: str, units: System = "metric") -> Figured | None:
    """The answer to a question of figures; None where it is none, and something else is asked.

    Raises `HydrarchError` saying what is wanting, and where the answer's own function refuses.
    """
    words = tidy(plain(text))
    for pattern, answers in _KINDS:
        if pattern.search(words):
            found, used = answers(words, _spoken(words, units))
            return replace(found, ignored=(*_unused(words, used), *_ignored(words)))
    return None


def _unused(words: str, used: tuple[_Figure, ...]) -> tuple[str, ...]:
    """The figures that nothing was worked out with, as they were said."""
    left = _figures(words)
    for figure in used:
        left.remove(figure)
    return tuple(f.said for f in left)


def _spoken(words: str, units: System) -> System:
    """The units a question was said in, in which it is answered: the bench's where it was said in both or in none."""
    said = {bool(_AMERICAN.search(m[0])) for m in _FIGURE.finditer(words)}
    return units if len(said) != 1 else "us" if said.pop() else "metric"


def _ignored(words: str) -> tuple[str, ...]:
    left = re.findall(r"[a-z]+(?:[-'][a-z]+)*", _FIGURE.sub(" ", words))
    return tuple(dict.fromkeys(w for w in left if w not in _OWN and not known_word(w)))


def _the(figures: list[_Figure], quantity: str, near: str, asked: str) -> _Figure:
    """The figure of a quantity whose words name it, or the only one there is; refused by what is asked for."""
    mine = [f for f in figures if f.quantity == quantity]
    named = [f for f in mine if re.search(near, f.after.split(",")[0]) or re.search(near, f.before.rpartition(",")[2])]
    if named:
        return named[0]
    if len(mine) == 1:
        return mine[0]
    raise HydrarchError(asked)


def _line(words: str, units: System) -> _Answer:
    figures = _figures(words)
    family = series(read_series(re.sub(_FIGURE, " ", words)))
    flow = _the(figures, "flow", r"", "say the flow, for example '8 gpm'")
    over = next(
        (f for f in figures if f.quantity == "length" and re.search(r"\b(?:over|through|along)\s*$", f.before)), None
    )
    long = over or _the(figures, "length", r"\b(?:long|of)\b", "say how long the line is, for example 'over 1000 ft'")
    climb = next((f for f in figures if f is not long and f.quantity == "length"), None)
    falls = climb is not None and re.search(r"\b(?:down|falls?|falling|lower|below)\b", climb.after + climb.before)
    rise = 0.0 if climb is None else -climb.value if falls else climb.value
    foot = _the(figures, "pressure", r"\b(?:at the (?:foot|start|pump|meter|source)|to hand|available|have)\b", _FOOT)
    left = [f for f in figures if f.quantity == "pressure" and f is not foot]
    if not left:
        raise HydrarchError(_FOOT)
    asked = LineQuestion(
        series=family.id,
        flow=flow.value,
        length=long.value,
        rise=rise,
        working=foot.value,
        wanted=left[0].value,
        units=units,
    )
    warm = [f for f in figures if f.quantity == "temperature"][:1]
    found = line_sizes(replace(asked, temperature=warm[0].value) if warm else asked)
    first = f"{family.name} {found.pick}" if found.pick else f"No size of {family.name}"
    mine = [f for f in figures if f.quantity == "short"][:1]
    if mine:  # of a size that was said that size is told first
        size = read_size(mine[0].said)[0]
        row = next((r for r in found.rows if r.size == size), None)
        if row is None:
            raise HydrarchError(f"{family.name} is not made in {mine[0].said}")
        first = f"{family.name} {size} {row.says}. {first}"
    rows = tuple(f"{row.size}: {row.says}" for row in found.rows if row.size in (found.below, found.pick, found.above))
    told: tuple[str, ...] = (
        f"{show(flow.value, 'flow', units)} in {family.name}",
        f"{show(long.value, 'length', units)} long, {show(abs(rise), 'length', units)} {'down' if rise < 0 else 'up'}",
        f"{show(foot.value, 'pressure', units)} to hand, {show(left[0].value, 'pressure', units)} wanted",
    )
    if warm:
        told = (*told, f"water of {show(warm[0].value, 'temperature', units)}")
    answer = Figured("line", f"{first}: {found.says}", rows, told)
    return answer, (flow, long, *((climb,) if climb else ()), foot, left[0], *warm, *mine)


_FOOT = "say both pressures: what is to hand at the foot, and what is wanted at the end: '60 psi at the foot, 20 psi wanted'"


def _well(words: str, units: System) -> _Answer:
    figures = _figures(words)
    head = _the(
        figures, "length", r"\bshut-?off\b", "say the head the pump makes when it is shut off: '800 ft shut-off'"
    )
    deep = next((f for f in figures if f.quantity == "length" and f is not head), None)
    if deep is None:
        raise HydrarchError("say how deep the well is, or how deep the pump hangs: '500 ft well'")
    rest = re.sub(rf"{re.escape(deep.said)}|{re.escape(head.said)}|\bwell\b|\bshut-?off\b|,", " ", words)
    thing = read_thing(" ".join(rest.split()))
    family, size = thing.pipe()
    item = pipe(family.id, size)
    sees = head.value * water(_ROOM).weight
    carries = laid_rating(item, _ROOM, HUNG)
    have, want = show(carries, "pressure", units), show(sees, "pressure", units)
    threads = " (half of plain pipe, for its threads)" if thread_end(family.id) else ""
    first = (
        f"Refused: {family.name} {size} hung in a well carries {have}{threads}, and sees {want} at shut-off."
        if carries < sees
        else f"{family.name} {size} hung in a well carries {have}{threads}, and sees {want} at shut-off; weight, friction "
        "and the water are judged at the bench."
    )
    says = (
        f"A check valve low on the string sees what the pump makes at shut-off: {want}.",
        "The water outside presses back where it stands in the hole, which is not counted on here.",
    )
    told = (f"pump in a well of {show(deep.value, 'well depth', units)}", f"shut-off {show(head.value, 'head', units)}")
    return Figured("well", first, says, told), (deep, head, *_sizes(figures))


def _offset(words: str, units: System) -> _Answer:
    angle = re.search(
        r"\b(?:two|2)\s*(?:x\s*)?(\d+(?:\s+1/2|-1/2|\.5)?)\s*(?:°|degrees?)?(?:\s*(?:elbows?|bends?))?\b", words
    )
    figures = _figures(words)
    by = next((f for f in figures if f.quantity in ("short", "length") and "offset" in f.after[:24]), None)
    if angle is None or by is None or by.value <= 0:
        raise HydrarchError("say the angle and the offset: 'two 45° for a 12 in offset in 1 in sch 40'")
    degrees = float(re.sub(r"[\s-]+1/2", ".5", angle.group(1)))
    rest = words.replace(angle.group(0), " ").replace(by.said, " ", 1)
    thing = read_thing(re.sub(r"\b(?:for|an?|in|offset|elbows?|bends?|of)\b|°", " ", rest).strip(" ,"))
    family, size = thing.pipe()
    own = pipe_end(family.id, size)
    turning = [
        f
        for f in fittings().values()
        if f.family == "elbow" and len(f.ports) == 2 and abs(f.angle - radians(degrees)) < radians(0.6)
        if all(p.end.size == own.size for p in f.ports) and f.ports[0].end.name == f.ports[1].end.name
        if f.ports[0].end.name in _mating(own.name)
    ]
    if not turning:
        raise HydrarchError(f"no elbow of {degrees:g}° is made for {family.name} {size}")
    elbow = turning[0]
    travel, run = by.value / sin(radians(degrees)), by.value / tan(radians(degrees))
    cut = travel - sum(p.stop for p in (elbow.ports[0], elbow.ports[1]))
    first = (
        f"{show(travel, 'cut', units)} centre to centre; the piece between is {show(cut, 'cut', units)} from socket stop "
        "to socket stop."
        if cut > 0
        else f"{show(travel, 'cut', units)} centre to centre: two {elbow.name} do not come so near to each other."
    )
    says = (
        f"Travel is the offset divided by the sine of {degrees:g}°; it runs on by {show(run, 'cut', units)}.",
        f"Taken off: {show(elbow.ports[0].stop, 'takeoff', units)} at each {elbow.name}. {elbow.source[0].upper()}{elbow.source[1:]}.",
    )
    told = (f"{show(by.value, 'cut', units)} offset", f"two {degrees:g}° in {family.name} {size}")
    return Figured("cut", first, says, told), (by, *(f for f in _sizes(figures) if f is not by))


def _sizes(figures: list[_Figure]) -> tuple[_Figure, ...]:
    """The figures that were read as the size of a pipe: no more than one is, else it was asked back."""
    return tuple(f for f in figures if f.quantity == "short")


def _mating(name: str) -> set[str]:
    return {other for other, _ in mates_of(end(name))}


def _wait(words: str, units: System) -> _Answer:
    figures = _figures(words)
    fused = re.search(r"\bfus(?:ed|ion|e)\b", words) is not None
    rest = re.sub(
        r"[;,.?]",
        " ",
        re.sub(
            r"\b(?:when|how long|until|till|before|wait|may|full|test|pressure|water|damp|"
            r"humid(?:ity)?|fused?|fusion|now|it|is|does|take|the|cure[ds]?|for|at)\b",
            " ",
            words,
        ),
    )
    for f in figures:
        if f.quantity in ("temperature", "share", "pressure"):
            rest = rest.replace(f.said, " ")
    thing = read_thing(" ".join(rest.split()))
    family, size = thing.pipe()
    how = "socket fusion" if fused else "solvent weld"
    if how not in {method for _, method in mates_of(pipe_end(family.id, size))}:
        raise HydrarchError(
            f"{family.name} {size} is not joined by a {how}, so there is no such wait: ask how to join it"
        )
    used = list(_sizes(figures))
    if fused:
        found = waits("socket fusion", size, 293.15, 0.5, 0.0, units)
        told: tuple[str, ...] = (f"{family.name} {size}, socket fusion",)
    else:
        warm = _the(figures, "temperature", r"", "say how cold it gets while it cures, for example '38 °F'")
        damp = next((f.value for f in figures if f.quantity == "share"), None)
        if damp is None:
            raise HydrarchError("say how damp the air is, for example '85 % damp'")
        press = _the(figures, "pressure", r"", "say the test's pressure, for example '60 psi'")
        found = waits("solvent weld", size, warm.value, damp, press.value, units)
        used += [warm, next(f for f in figures if f.quantity == "share"), press]
        told = (
            f"{family.name} {size}, solvent weld",
            f"{show(warm.value, 'temperature', units)}, {damp:.0%} damp, {show(press.value, 'pressure', units)}",
        )
    table = next(s for s in found.schools if s.option == "table")
    longer = [s for s in found.schools if s.option != "table" and s.test > table.test]
    first = f"{_minutes(table.fill)} before water comes in, {_minutes(table.test)} before its full test, at the least."
    says = (
        *(f"{_minutes(s.test)} before the test where the practice is: {s.says}. {s.reason}" for s in longer),
        f"{found.says[0].upper()}{found.says[1:]}.",
        f"Source: {found.source}.",
    )
    return Figured("fused" if fused else "wait", first, says, told), tuple(used)


def _minutes(seconds: float) -> str:
    if seconds < 60:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.3g} min" if seconds < 7200 else f"{seconds / 3600:.3g} h"


def _readings(words: str, units: System) -> _Answer:
    """Readings told without their figures give no verdict; what is wanting is said."""
    return Figured(
        "",
        "No verdict yet: readings told in words show nothing of a slow leak.",
        (
            "Still needed: the pressure at the start and at the end, over the test's whole time. That is half an hour on "
            "stiff pipe, longer on polyethylene, which stretches. And the gauge's accuracy, and the pipe's own temperature "
            "at both.",
            "Judged in a job, at the section's own test: there the line's water and stretch are known.",
        ),
        (words,),
    ), tuple(_figures(words))


_KINDS: tuple[tuple[re.Pattern[str], Callable[[str, System], _Answer]], ...] = (
    (re.compile(r"\breadings?\b.*\b(?:tight|leaks?|holds?)\b"), _readings),
    (re.compile(r"\bwell\b.*\bshut-?off\b|\bshut-?off\b.*\bwell\b"), _well),
    (re.compile(r"\boffset\b"), _offset),
    (re.compile(r"\b(?:when|how long)\b.*\b(?:test|pressure|water|cured?|wait)\b|\bfused\b.*\bwhen\b"), _wait),
    (re.compile(_FLOW), _line),
)
