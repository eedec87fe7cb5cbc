"""Drawing by measure, in a crew's own words: "12.4 e, 3 up, 45 left 2.1, tap" becomes points, runs and things.

A line is parts between commas. A part is a length with a direction, or a thing that is set where the line has come to.
Directions are of the compass, up and down, or of the way one goes: on, left, right, back. A number of degrees before
left, right, up or down turns or tilts by so much; "falling 1 in 70" or "falling 1/4 in per ft" lets a level length fall
as it goes. Two things one after the other stand a foot apart. "six heads every 12 m" is six lengths, each with a head;
"to valve 2" leads the pipe to what is there already, "at tee 1:" goes on from there; "1-1/2 pipe" says what is drawn
from then on.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import atan2, cos, degrees, hypot, radians, sin

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.numerals import parse_number
from hydrarch.core.base.units import System, read, show
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.components.synonyms import named

__all__ = [
    "At",
    "Go",
    "Join",
    "Measured",
    "Put",
    "SizeSaid",
    "To",
    "read_measures",
    "said",
    "taped",
    "way_of",
    "written",
]

_COMPASS = {
    "e": 0.0,
    "east": 0.0,
    "ne": 45.0,
    "northeast": 45.0,
    "north-east": 45.0,
    "n": 90.0,
    "north": 90.0,
    "nw": 135.0,
    "northwest": 135.0,
    "north-west": 135.0,
    "w": 180.0,
    "west": 180.0,
    "sw": 225.0,
    "southwest": 225.0,
    "south-west": 225.0,
    "s": 270.0,
    "south": 270.0,
    "se": 315.0,
    "southeast": 315.0,
    "south-east": 315.0,
}
"""Directions by their words, in degrees anticlockwise from east."""
_NAMES = {
    0: "east",
    45: "north-east",
    90: "north",
    135: "north-west",
    180: "west",
    225: "south-west",
    270: "south",
    315: "south-east",
}
_TURNS = {"on": 0.0, "straight": 0.0, "ahead": 0.0, "left": 90.0, "right": -90.0, "back": 180.0}
_UPRIGHT = {"up": 90.0, "u": 90.0, "down": -90.0, "d": -90.0}
_SLOPE = re.compile(
    r"\b(fall|falls|falling|rise|rises|rising)\s+(?:of\s+|at\s+)?(?:1\s*in\s*(\d+(?:[.,]\d+)?)|(\d+(?:[.,]\d+)?)\s*%)"
)
_ANGLE = re.compile(r"(?<![\d./-])(\d+(?:[.,]\d+)?)\s*(?:°|deg(?:rees)?)?\s*(left|right|up|down)\b")
_FLOOR = re.compile(r"^(?:up |down )?(?:to )?(.+?) (above|below) (?:the )?(floor|ground)$")
_FACES = re.compile(r"\s+(?:face to face|ff)\b")
_CENTRES = re.compile(r"\s+(?:centre to centre|center to center|cc)\b")
FACES = ", face to face"
_RELATIVE = re.compile(r"\b(on|left|right|back)\b")
_WORD = re.compile(r"[a-z]+(?:-[a-z]+)?")
_PARTED = re.compile(
    r"\s*;\s*|\s*:(?=\s)\s*|\s*,(?=\s)\s*|(?<=[A-Za-z°%'\"″′])\s*,\s*|\s+then\s+"
)  # not the comma of 12,4
_PER = re.compile(
    r"\b(fall|falls|falling|rise|rises|rising)\s+(?:of\s+|at\s+)?(.+?)\s+(?:per|in each|every|to the|a)\s+(.+)$"
)
_AT = re.compile(r"^(?:from|at) +(.+)$")
_JOIN = re.compile(r"^(?:(?:back|on|up|down|across|over) +)?to +(?:the +)?(.+)$")
_SIDE = re.compile(r"^(?:the )?(hot|cold) +(?:side of (?:the )?)?(.+)$")
_CALLED = re.compile(r"^(.+?) +(?:called|named) +(.+)$", re.IGNORECASE)
_COUNTS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_EVERY = re.compile(
    rf"^(\d{{1,3}}|{'|'.join(_COUNTS)}) +(.+?),? +(?:every|each|at|spaced)? *(\d.*?)(?: +apart)?((?: +[a-z-]+)?)$"
)
_PIPE = re.compile(r"^(?:in|of|with)? *(.*\d.*?) *(?:in|inch|inches|\"|″|mm)? +(?:pipe|line|main|lateral|tubing)$")
_APART: dict[System, str] = {"metric": "0.3 m", "us": "1 ft"}
"""Between two things that are said one after the other with no length between: room for a short piece of pipe."""
MOST = 200
"""Parts a line of measures may have."""


@dataclass(frozen=True, slots=True)
class Go:
    """A length (m) along a way: `heading` (rad, anticlockwise from east) and `tilt` (rad, up from level); how it was
    said in full.

    `faces` says that it is what is seen of the pipe between two fittings, not from centre to centre.
    """

    length: float
    heading: float
    tilt: float
    text: str
    faces: bool = False

    @property
    def way(self) -> tuple[float, float, float]:
        """Where it leads to from where it begins (m): east, north, up."""
        level = self.length * cos(self.tilt)
        return level * cos(self.heading), level * sin(self.heading), self.length * sin(self.tilt)


@dataclass(frozen=True, slots=True)
class Put:
    """A thing of a kind, set where the line has come to; it may be given a name, and a fixture be the `hot` side."""

    kind: str
    name: str = ""
    hot: bool = False


@dataclass(frozen=True, slots=True)
class To:
    """Straight up or down to a `height` (m) above the ground or floor there, below it under zero; how it was said."""

    height: float
    text: str


@dataclass(frozen=True, slots=True)
class At:
    """Where the line goes on from: a point by its name, or by its kind and number in this very line."""

    name: str


@dataclass(frozen=True, slots=True)
class Join:
    """A pipe straight to what is there already, by name."""

    name: str


@dataclass(frozen=True, slots=True)
class SizeSaid:
    """The size of the pipe that is drawn from here on, as it is sold; "" leaves it to be worked out."""

    size: str


Measured = Go | Put | To | At | Join | SizeSaid


def read_measures(text: str, units: System = "metric", heading: float = 0.0) -> tuple[Measured, ...]:
    """Read a line of measures; `heading` (rad from east) is the way the line came, for its lefts and rights.

    Raises `HydrarchError` that says which part is not understood, and how to say it.

    >>> [round(x, 3) for x in read_measures("2 e, 45 left 1")[1].way]
    [0.707, 0.707, 0.0]
    """
    parts = [p.strip() for p in re.split(_PARTED, text.strip()) if p.strip()]
    if not parts:
        raise HydrarchError("say a length and a direction, for example '2.4 e, 0.6 up, tap'")
    if len(parts) > MOST:
        raise HydrarchError(f"that line has {len(parts)} parts; draw it in pieces of at most {MOST}")
    found: list[Measured] = []
    lost = False  # which way a line comes to what it goes on from is not known
    for n, part in enumerate(parts, 1):
        try:
            for step in _several(part, units, heading) or (_part(part, units, heading),):
                before = next((s for s in reversed(found) if not isinstance(s, SizeSaid)), None)
                if isinstance(step, Put) and isinstance(before, Put):
                    found.append(_hand_on(found, units, heading))
                if isinstance(step, Go):
                    if lost and _RELATIVE.search(step.text):
                        raise HydrarchError("from there say the way by the compass first: north, east, up")
                    heading, lost = step.heading, False
                lost = lost or isinstance(step, (At, Join))
                found.append(step)
        except HydrarchError as error:
            raise HydrarchError(f"part {n}, '{part}': {error}") from None
    if len(found) > MOST:
        raise HydrarchError(f"that line has {len(found)} parts; draw it in pieces of at most {MOST}")
    return tuple(found)


def _hand_on(found: Sequence[Measured], units: System, heading: float) -> Go:
    """A short length on the way the last one went: up or down where it stood, falling where it fell."""
    last = next((s for s in reversed(found) if isinstance(s, Go)), None)
    way = "on"
    if last is not None and abs(last.tilt) > 1.5:
        way = "up" if last.tilt > 0 else "down"
    elif last is not None and (fall := re.search(r"(?:falling|rising) 1 in \S+", last.text)) is not None:
        way = f"on {fall.group(0).rstrip(',')}"
    elif last is not None and last.tilt:
        way = f"{abs(degrees(last.tilt)):.6g}° {'up' if last.tilt > 0 else 'down'} on"
    step = _part(f"{_APART[units]} {way}", units, heading)
    assert isinstance(step, Go)
    return step


def _several(text: str, units: System, heading: float) -> tuple[Measured, ...]:
    """So many things, each a length on from the last; none where the words say no such thing."""
    match = _EVERY.match(text.lower())
    if match is None:
        return ()
    kind = _thing(match.group(2)) or _thing(match.group(2).removesuffix("s"))
    if kind is None:
        return ()
    count = _COUNTS.index(match.group(1)) + 1 if match.group(1) in _COUNTS else int(match.group(1))
    go = _part(match.group(3) + match.group(4), units, heading)
    if not isinstance(go, Go) or not 1 <= count <= MOST // 2:
        raise HydrarchError(f"say how many, up to {MOST // 2}, and how far apart: six heads every 12 m east")
    on = (
        replace(go, text=f"{go.text.split(' ', 2)[0]} {go.text.split(' ', 2)[1]} on")
        if _RELATIVE.search(go.text)
        else go
    )
    return tuple(s for n in range(count) for s in (on if n else go, Put(kind)))


def _place(text: str) -> Measured | None:
    """What only says where: on from a point, or to one."""
    for pattern, step in ((_AT, At), (_JOIN, Join)):
        match = pattern.match(text)
        if match is not None:
            return step(" ".join(match.group(1).split()))
    return None


def _sized_pipe(text: str) -> SizeSaid | None:
    match = _PIPE.match(text)
    return None if match is None else SizeSaid(re.sub(r"(?<=\d) +(?=\d+/)", "-", match.group(1)))


def _part(told: str, units: System, heading: float) -> Measured:
    text = told.lower()
    called = _CALLED.match(told)
    if called is not None and (put := _set_down(called.group(1).lower())) is not None:
        return replace(put, name=" ".join(called.group(2).split()))
    if text in ("foot valve", "a foot valve"):
        raise HydrarchError(
            "a foot valve belongs to the tank or pond the line begins at: choose it there, under Pipe begins at"
        )
    if not _FLOOR.match(text) and (place := _place(told if _JOIN.match(told) or _AT.match(told) else text)) is not None:
        return place
    if (sized := _sized_pipe(text)) is not None:
        return sized
    if not re.search(r"\d", text) or _thing(text) is not None:
        put = _set_down(text)
        if put is None:
            raise HydrarchError(
                "no thing or length is called so; say a length and a direction, or a thing such as tee, valve, tap"
            )
        return put
    level = _FLOOR.match(text)
    if level is not None:
        height = read(level.group(1), "length", units)
        if height < 0:
            raise HydrarchError("say how far above or below the floor, without a minus")
        words = f"to {_exact(height, units)} {level.group(2)} the {level.group(3)}"
        return To(height if level.group(2) == "above" else -height, words)
    faces = _FACES.search(text)
    text = _CENTRES.sub(" ", _FACES.sub(" ", text))
    slope, text = _sloped(text)
    turn, tilt, rest, told = _way(text, heading)
    length = read(rest, "length", units)
    if not 0 < length <= 1e4:
        raise HydrarchError("a length must be above zero")
    if slope and tilt:
        raise HydrarchError("a length falls or rises as it goes only where it is level")
    words = f"{_exact(length, units)} {told}"
    if slope:
        words += f" {'falling' if slope < 0 else 'rising'} 1 in {1 / abs(slope):.6g}"
    return Go(length, turn, atan2(slope, 1.0) if slope else tilt, words + (FACES if faces else ""), bool(faces))


def _per(text: str) -> tuple[float, str]:
    """A fall said as a length in each other length: 1/4 in per ft."""
    match = _PER.search(text)
    if match is None:
        return 0.0, text
    each = match.group(3) if re.search(r"\d", match.group(3)) else f"1 {match.group(3)}"
    try:
        slope = read(match.group(2), "length") / read(each, "length")
    except HydrarchError:
        raise HydrarchError("a fall is written '1 in 70', '2 %', '1/4 in per ft' or '1 cm per m'") from None
    if not 0 < slope < 1:
        raise HydrarchError("a fall must be above zero and less than the length")
    return (-slope if match.group(1).startswith("fall") else slope), text[: match.start()]


def _sloped(text: str) -> tuple[float, str]:
    match = _SLOPE.search(text)
    if match is None:
        return _per(text)
    number = parse_number(match.group(2) or match.group(3))
    if number <= 0:
        raise HydrarchError("a fall is written '1 in 70' or '2 %'")
    slope = 1 / number if match.group(2) else number / 100
    return (-slope if match.group(1).startswith("fall") else slope), text[: match.start()] + text[match.end() :]


def _way(text: str, heading: float) -> tuple[float, float, str, str]:
    """The heading and tilt a part goes, what is left of it (its length), and the way in words that read the same."""
    angle = _ANGLE.search(text)
    if angle is not None and re.search(r"\d", rest := text[: angle.start()] + " " + text[angle.end() :]):
        by, side = parse_number(angle.group(1)), angle.group(2)
        if side in _TURNS:
            if not 0 < by <= 180:
                raise HydrarchError("a turn is between 0 and 180 degrees")
            _nothing_left(rest)
            sign = 1 if side == "left" else -1
            return heading + sign * radians(by), 0.0, rest, f"{by:g}° {side}"
        if not 0 < by <= 90:
            raise HydrarchError("a tilt is between 0 and 90 degrees")
        flat, rest, told = _turned(rest, heading)
        return flat, radians(by if side == "up" else -by), rest, f"{by:g}° {side} {told}".strip()
    return _level(text, heading)


def _turned(text: str, heading: float) -> tuple[float, str, str]:
    """The heading of a length that tilts: a turn by degrees or by a word, what is left, and how it is said."""
    turn = _ANGLE.search(text)
    if turn is None or turn.group(2) not in _TURNS or not re.search(r"\d", text[: turn.start()] + text[turn.end() :]):
        flat, _, rest, told = _level(text, heading)
        return flat, rest, told
    flat, _, rest, told = _way(text, heading)
    return flat, rest, told


def _nothing_left(text: str) -> None:
    for word in _WORD.findall(text):
        if word in _COMPASS or word in _TURNS or word in _UPRIGHT:
            raise HydrarchError(f"it goes two ways: '{word}' and a turn; say one")


def _level(text: str, heading: float) -> tuple[float, float, str, str]:
    ways = [m for m in _WORD.finditer(text) if m.group(0) in _COMPASS or m.group(0) in _TURNS or m.group(0) in _UPRIGHT]
    if len(ways) > 1:
        raise HydrarchError(f"it goes two ways: {' and '.join(m.group(0) for m in ways)}; part them by a comma")
    if not ways:
        return heading, 0.0, text, "on"
    word = ways[0].group(0)
    rest = f"{text[: ways[0].start()]} {text[ways[0].end() :]}".strip()
    if word in _UPRIGHT:
        return heading, radians(_UPRIGHT[word]), rest, "up" if _UPRIGHT[word] > 0 else "down"
    if word in _COMPASS:
        return radians(_COMPASS[word]), 0.0, rest, _NAMES[int(_COMPASS[word])]
    return heading + radians(_TURNS[word]), 0.0, rest, {"straight": "on", "ahead": "on"}.get(word, word)


def _thing(text: str) -> str | None:
    words = " ".join(re.sub(r"^(an?|the)\s+", "", text.strip()).split())
    return named(words)


def _set_down(text: str) -> Put | None:
    """What is set down by such words: a thing, or the hot or cold side of a fixture."""
    kind = _thing(text)
    if kind is not None:
        return Put(kind)
    side = _SIDE.match(text.strip())
    kind = _thing(side.group(2)) if side is not None else None
    if side is None or kind is None or "fixture" not in kind_named(kind).traits:
        return None
    model = kind_named(kind).model
    assert issubclass(model, Fixture)
    if side.group(1) not in model.sides:
        raise HydrarchError(f"a {kind_named(kind).title.lower()} has no {side.group(1)} side")
    return Put(kind, hot=side.group(1) == "hot")


def _exact(length: float, units: System) -> str:
    """A length that reads back as it is."""
    return f"{length / 0.3048:.6g} ft" if units == "us" else f"{length:.6g} m"


def written(steps: tuple[Measured, ...]) -> str:
    """A line of measures written out in full: read again, it is the same."""
    return ", ".join(s.text.replace(FACES, FACES[1:]) if isinstance(s, (Go, To)) else _wording(s) for s in steps)


def _wording(step: Put | At | Join | SizeSaid) -> str:
    """What no length is said of, in words that read the same."""
    if isinstance(step, Put):
        hot = "hot " if step.hot else ""
        return hot + kind_named(step.kind).title.lower() + (f" called {step.name}" if step.name else "")
    if isinstance(step, At):
        return f"at {step.name}"
    if isinstance(step, Join):
        return f"to {step.name}"
    return f"{step.size} pipe"


def said(steps: tuple[Measured, ...], units: System = "metric") -> str:
    """A line of measures as it is read back before it is drawn: lengths to the sixteenth of an inch or the
    millimetre.
    """
    told = []
    for s in steps:
        if not isinstance(s, (Go, To)):
            told.append(_wording(s))
            continue
        if isinstance(s, To):
            told.append(f"to {taped(abs(s.height), units)} {s.text.split(' ', 3)[3]}")
            continue
        long = taped(s.length, units)
        way = s.text.split(" ", 2)[2]
        if _RELATIVE.search(way):  # told as it was said: which way one comes from is not known to the words
            told.append(f"{long} {way}")
            continue
        if fall := re.search(r" (?:falling|rising) 1 in .+$", s.text):
            told.append(f"{long} {_compass(s.heading)}{fall.group(0)}")
            continue
        way = "up" if s.tilt > 1.5 else "down" if s.tilt < -1.5 else _compass(s.heading)
        tilt = f", {abs(degrees(s.tilt)):.3g}° {'up' if s.tilt > 0 else 'down'}" if 0 < abs(s.tilt) <= 1.5 else ""
        told.append(f"{long} {way}{tilt}{FACES if s.faces else ''}")
    return " · ".join(_counted(told))


def _counted(told: list[str]) -> list[str]:
    """What is said over and over, a length and a thing, told once with its count."""
    found, n = list[str](), 0
    while n < len(told):
        pair, count = told[n : n + 2], 1
        while told[n + 2 * count : n + 2 * count + 2] == pair:
            count += 1
        if count > 1 and len(pair) == 2:
            found.append(f"{count} × ({' · '.join(pair)})")
            n += 2 * count
        else:
            found.append(told[n])
            n += 1
    return found


def taped(length: float, units: System) -> str:
    """A length (m) as it is read off a tape: to the sixteenth of an inch, the millimetre, or whole centimetres of a
    metre and more.
    """
    whole = units == "metric" and length >= 1 and abs(length - round(length, 2)) < 1e-6
    return str(show(length, "length" if whole else "cut", units))


def _compass(heading: float) -> str:
    return _NAMES[round(degrees(heading) / 45) % 8 * 45]


def way_of(text: str, units: System = "metric") -> tuple[float, float, float]:
    """How far a line of measures leads in all (m): east, north, up.

    Raises `HydrarchError` where it sets a thing down, or leads nowhere.

    >>> way_of("3 e, 1 up")
    (3.0, 0.0, 1.0)
    """
    steps = read_measures(text, units)
    goes = [s for s in steps if isinstance(s, Go)]
    if len(goes) < len(steps):
        raise HydrarchError("say only lengths and ways here, such as '12 m east' or '3 e, 0.5 up'")
    east, north, up = (round(sum(s.way[n] for s in goes), 6) + 0.0 for n in range(3))
    if not hypot(east, north, up):
        raise HydrarchError("that leads back to where it began: say how far, and which way")
    return east, north, up
