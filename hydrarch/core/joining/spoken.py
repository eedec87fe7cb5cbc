"""What is to be joined in a crew's own words: "1-1/2 in sch 40 to 25 mm PE".

Read right, or asked back; never silently another size.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.base.units import PSI, size_is_metric, size_value
from hydrarch.core.catalogue.fittings import ends
from hydrarch.core.catalogue.pipes import series, series_list, thread_end
from hydrarch.core.joining.pipe_or_end import PipeOrEnd

__all__ = [
    "NOTHING_HEARD",
    "Heard",
    "ignored",
    "plain",
    "read_closed",
    "read_conditions",
    "read_question",
    "read_size",
    "read_things",
]

_UNICODE = {
    "¼": "1/4",
    "½": "1/2",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "″": '"',
    "”": '"',
    "−": "-",
    "–": "-",
    "×": "x",
}
_MATERIALS = {
    "pvc": "pvc40",
    "poly": "pe-sidr7",
    "polyethylene": "pe-sidr7",
    "pe": "pe-sidr7",
    "sidr": "pe-sidr7",
    "ppr": "ppr-s2.5",
    "mdpe": "pe100-sdr11",
    "hdpe": "pe100-sdr11",
    "galvanized": "galv40",
    "galvanised": "galv40",
    "galv": "galv40",
    "steel": "galv40",
    "copper": "copper-l",
    "sewer": "sewer-sdr35",
    "dwv": "dwv40",
    "drain pipe": "sewer-sdr35",
    "flexible pvc": "pvc-flex",
    "flex pvc": "pvc-flex",
    "flex": "pvc-flex",
    "lead": "lead",
    "fibre": "fibre",
    "fiber": "fibre",
    "bituminized fibre": "fibre",
    "corrugated": "corrugated",
    "vinyl": "vinyl",
    "rural": "pe-rural",
    "rural poly": "pe-rural",
    "copper size poly": "pe-cts9",
    "copper size pe": "pe-cts9",
    "copper-size poly": "pe-cts9",
    "copper-size pe": "pe-cts9",
    "copper-size polyethylene": "pe-cts9",
    "cts": "pe-cts9",
    "cts poly": "pe-cts9",
    "cts pe": "pe-cts9",
    "cts polyethylene": "pe-cts9",
    "ips poly": "pe-dr11",
    "ips pe": "pe-dr11",
    "metric pvc": "pvc-metric",
    "metric poly": "pe100-sdr11",
    "metric pe": "pe100-sdr11",
    "metric polyethylene": "pe100-sdr11",
    "building drain": "dwv40",
    "copper drain": "copper-dwv",
    "cast iron": "cast-iron",
    "spa hose": "pvc-flex",
}
_CODES = {
    "sch40": "pvc40",
    "schedule40": "pvc40",
    "sch80": "pvc80",
    "schedule80": "pvc80",
    "sch120": "pvc120",
    "schedule120": "pvc120",
    "class200": "pvc-sdr21",
    "class160": "pvc-sdr26",
    "class315": "pvc-sdr13.5",
    "pe100": "pe100-sdr11",
    "sdr35": "sewer-sdr35",
}
_ENDS = {
    ("npt", "female"): "npt:female",
    ("npt", "male"): "npt:male",
    ("parallel", "female"): "bspp:female",
    ("parallel", "male"): "bspp:male",
    ("bsp", "female"): "bsp:female",
    ("bsp", "male"): "bsp:male",
    ("hose", "female"): "hose:female",
    ("hose", "male"): "hose:male",
    ("hose tap", ""): "hose:male",
    ("hose bib", ""): "hose:male",
    ("union", "female"): "buttress:female",
    ("union", "male"): "buttress:male",
    ("buttress", "female"): "buttress:female",
    ("buttress", "male"): "buttress:male",
    ("tank wall", ""): "bulkhead:wall",
    ("tank", ""): "bulkhead:wall",
    ("side of", ""): "saddle:wall",
    ("deep socket", ""): "solvent:deep",
    ("socket", ""): "solvent:socket",
    ("spigot", ""): "solvent:spigot",
}
_ASK = {
    "hose": "say whether that hose thread is male, as a tap's spout is, or female, as the nut of a hose",
    "npt": "say whether that thread is male or female",
    "bsp": "say whether that thread is male or female",
    "thread": "say which thread it is (NPT, BSP, hose), and whether male or female",
    "pex": "we have no PEX fittings; its outside is that of copper tube, so a compression coupling for copper-size "
    "pipe of that size may grip it: measure it and read the coupling",
    "trap": "say what the trap ends in: a pipe of some size, or a thread",
    "cap": "to close a line, ask 'cap a 1 in pvc line'",
}
_GRADES = re.compile(r"\b(?:sch(?:edule)?|class|sdr|sidr|dr|pn|s)\s*\.?\s*(\d+(?:\.\d+)?)\b|\bpe\s*100\b")
_NUMBER = re.compile(
    r"(?<![\d./])(-?)\s*(\d+[\s-]+\d+/\d+|\d+/\d+|\d*\.\d+|\d+)\s*(mm|millimet(?:er|re)s?|in(?:ch(?:es)?)?\b\.?|\")?"
)
_TWIN = {"pe-sidr7": "pe100-sdr11", "pvc40": "pvc-metric", "sewer-sdr35": "drain-metric", "dwv40": "drain-metric"}


@dataclass(frozen=True, slots=True)
class Heard:
    """What words say besides the two things: the `limits` they set, by the names of the bench's own, the pressure (Pa)
    it must stand and the water's temperature (K), None where they are not said.

    `ignored` are the words that mean nothing here: they are told beside the answer, and change nothing in it.
    """

    limits: tuple[str, ...] = ()
    pressure: float | None = None
    temperature: float | None = None
    ignored: tuple[str, ...] = ()


NOTHING_HEARD = Heard()
_NO = r"(?:no|without|not|never|can ?not use|can't use|don't want)(?: with| any| an?| to use| use)*|don't use"
_NOT_ASKED = re.compile(
    r"\b(?:no|not|without|never|need not|needn't|does(?:n't| not) (?:have|need)(?: to)?|don't (?:need|want))"
    r"(?: (?:for|to|be|an?|any|it|is))*"
    r" (?:(?:stop |shut-?off |ball |gate |isolation |isolating )?valves?|unions?|serviceable|removable|come apart|taken apart"
    r"|drinking(?: water)?|potable(?: water)?|buried|underground|fixed|held)(?: in)?(?: between)?(?: again)?\b"
)
"""A condition that is said not to be wanted: it is understood, and sets no limit."""
_CONDITIONS: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (name, re.compile(pattern))
    for name, pattern in (
        ("no_solvent", rf"\b(?:{_NO}) (?:solvent|glue|gluing|cement|welding with solvent)\b|\bglue[- ]?free\b"),
        ("no_hot_work", rf"\b(?:{_NO}) (?:heat|hot work|flame|torch|iron|fusion|solder(?:ing)?|fire)\b"),
        (
            "fixed",
            r"\b(?<!one )(?:both |two |neither )?(?:ends? )?(?:are |is )?fixed\b(?<!one end fixed)(?<!one end is fixed)"
            r"|\b(?:both(?: ends)?|two ends|ends are|are)(?: are)? held\b"
            r"|\bneither (?:end )?(?:can )?(?:moves?|turns?)(?: (?:or|nor) (?:moves?|turns?))?\b"
            r"|\b(?:that |which )?(?:can ?not|cannot|can't|won't|does not|doesn't) (?:be )?(?:moved?|turn(?:ed)?)\b",
        ),
        (
            "valve",
            r"\b(?:with |and )?(?:an? )?(?:new )?(?:stop |shut-?off |ball |gate |isolation |isolating )?valve "
            r"(?:in |to go )?between\b,?|\b(?:with|and) (?:an? )?(?:stop |shut-?off |ball |gate )?valve\b,?",
        ),
        ("union", r"\b(?:with|and) (?:an? )?unions?\b(?! (?:fe)?male)|\b(?:and )?(?:an? )?union (?:in )?between\b"),
        (
            "serviceable",
            r"\b(?:that |it |which )?(?:must|can|should|has to|to) (?:be )?(?:come|comes|taken?|took) (?:apart|off)"
            r"(?: again)?\b|\bserviceable\b|\bremovable\b|\bto unscrew\b",
        ),
        ("potable", r"\b(?:for )?(?:drinking|potable)(?: water)?\b"),
        ("buried", r"\b(?:to be |it is |will be )?(?:buried|underground|in the ground|in a trench)\b"),
    )
)
_PRESSURE = re.compile(r"\b(?:at|to stand|for|under)?\s*(\d+(?:\.\d+)?)\s*(psi|bar|kpa)\b")
_PASCALS = {"psi": PSI, "bar": 1e5, "kpa": 1e3}
_WARMTH = re.compile(
    r"\b(?:at|water (?:of|at))\s*(\d+(?:\.\d+)?)\s*°?\s*([cf])\b|(?<![\d/.])(\d+(?:\.\d+)?)\s*(?:°\s*|degrees? )([cf])[a-z]*\b"
)
_HOT = re.compile(r"\b(?:for )?hot(?: water)?\b")


_CLOSE = re.compile(r"^\s*(?:cap|close|close off|plug|stop)\s+(?:off\s+)?(?:an?\s+|the\s+)?", re.IGNORECASE)


def read_closed(text: str) -> tuple[PipeOrEnd, ...]:
    """The lines to be closed in "cap a 1/2 in pvc line and a 1 in pvc line in one trench"; none where nothing is to be
    closed.

    A line that names no material is of that of the one before. Raises `HydrarchError` as `read_things` does.
    """
    match = _CLOSE.match(text)
    if match is None or re.search(r"\s(?:to|into|onto)\s", text):
        return ()
    rest = re.sub(r"\bin (?:one|the same|a) trench\b|\blines?\b|\bpipes?\b", " ", plain(text[match.end() :]).lower())
    halves = [" ".join(h.split()) for h in re.split(r"\s+and\s+(?:an?\s+)?", rest)]
    named = [h for h in halves if _family(h) is not None or _drip(h) is not None]
    if not named:
        raise HydrarchError(f"'{text}': say what pipe is to be closed, for example 'cap a 1 in pvc line'")
    last = _without_size(named[-1])
    return tuple(_thing(h if h in named else f"{h} {last}") for h in halves)


def _without_size(text: str) -> str:
    """What a pipe is, without the size that is said of it."""
    bare = _GRADES.sub(lambda m: "#" * len(m.group(0)), text)
    found = _NUMBER.search(bare)
    return text if found is None else " ".join((text[: found.start()] + " " + text[found.end() :]).split())


def read_question(text: str) -> tuple[PipeOrEnd, PipeOrEnd, Heard]:
    """Read "1 in galvanized to 1 in galvanized, both fixed, with a valve between" as two things and what else was said.

    Raises `HydrarchError` as `read_things` does.
    """
    rest, said = read_conditions(plain(text).lower())
    one, two = read_things(re.sub(r"(?:\s*,)+\s*(?=$|\bto\b)|^\s*,", " ", rest).strip(" ,"))
    return one, two, replace(said, ignored=ignored(rest))


def read_conditions(text: str) -> tuple[str, Heard]:
    """What is left of a question once its conditions are read, and those: no glue, no heat, a valve between, at 6 bar.

    Raises `HydrarchError` for water that is said to be hot and not how hot, for no pressure, and for two.
    """
    found: list[str] = []
    text = _NOT_ASKED.sub(" ", text)
    for name, pattern in _CONDITIONS:
        if pattern.search(text):
            found.append(name)
            text = pattern.sub(" ", text)
    pressure = temperature = None
    told = _PRESSURE.search(text)
    if told is not None:
        pressure = float(told.group(1)) * _PASCALS[told.group(2)]
        text = _PRESSURE.sub(" ", text, count=1)
        if not pressure:
            raise HydrarchError("a pressure is above nought: leave it out where none is asked")
        if _PRESSURE.search(text):
            raise HydrarchError("say one pressure: the highest it must stand")
    warm = _WARMTH.search(text)
    if warm is not None:
        degrees, unit = float(warm.group(1) or warm.group(3)), warm.group(2) or warm.group(4)
        temperature = degrees + 273.15 if unit == "c" else (degrees + 459.67) * 5 / 9
        text = _HOT.sub(" ", _WARMTH.sub(" ", text, count=1))
    if _HOT.search(text):
        raise HydrarchError("say how hot the water is, for example 'at 60 °C' or 'at 140 °F'")
    return text, Heard(tuple(found), pressure, temperature)


_FILLERS = frozenset(
    [
        "a",
        "an",
        "the",
        "of",
        "to",
        "into",
        "onto",
        "in",
        "and",
        "or",
        "with",
        "this",
        "that",
        "my",
        "our",
        "some",
        "pipe",
        "pipes",
        "line",
        "lines",
        "tube",
        "tubing",
        "piece",
        "end",
        "ends",
        "old",
        "existing",
        "new",
        "fitting",
        "fittings",
        "thread",
        "threads",
        "threaded",
        "x",
        "by",
        "inch",
        "inches",
        "mm",
        "millimeter",
        "millimetre",
        "please",
        "join",
        "connect",
        "joined",
        "how",
        "do",
        "i",
        "go",
        "from",
        "it",
        "is",
        "on",
        "for",
        "adapter",
        "what",
        "you",
        "we",
        "can",
        "like",
        "coupling",
    ]
)
"""Words that change nothing in a question."""


@remembered()
def _vocabulary() -> frozenset[str]:
    named = [*_MATERIALS, *_CODES, *(word for end in _ENDS for word in end), *_ASK]
    named += [word for s in series_list() for word in (s.id, s.short, s.name)]
    named += ["sch schedule class sdr sidr dr pn pe thin wall thinwall drip dripline"]
    return _FILLERS | {w for text in named for w in re.findall(r"[a-z]+", text.lower())}


def ignored(text: str) -> tuple[str, ...]:
    """The words of a question that nothing of it was read from, in their order."""
    known = _vocabulary()
    return tuple(dict.fromkeys(w for w in re.findall(r"[a-z][a-z'-]*[a-z]", text) if not _known(w, known)))


def _known(word: str, known: frozenset[str]) -> bool:
    return all(part in known or len(part) < 2 for part in re.split(r"[-']", word))


def read_things(text: str) -> tuple[PipeOrEnd, PipeOrEnd]:
    """Read "1 in sch 40 pipe to 1 in SIDR poly" as two things; raises `HydrarchError` saying which half is not
    understood.
    """
    halves = re.split(r"\s+(?:to|into|onto)\s+", plain(text).strip().lower())
    if len(halves) != 2:
        raise HydrarchError("say it as 'this to that', for example '1 in sch 40 pipe to 1 in poly'")
    one, two = (_thing(" ".join(h.split())) for h in halves)
    return one, two


def plain(text: str) -> str:
    """Text with fractions, signs and quotes as a keyboard has them."""
    for sign, plain in _UNICODE.items():
        gap = "-" if plain[0].isdigit() else ""
        text = re.sub(rf"(?<=\d)\s*{sign}", gap + plain, text) if gap else text
        text = text.replace(sign, plain)
    return text


def read_size(text: str) -> tuple[str, str]:
    """The one size a text names as the trade writes it, "1-1/2" or "25", and the unit that was said: "mm", "in" or
    none.

    Raises `HydrarchError` where there is none, more than one, or one that is no size.

    >>> read_size("1 1/2 in pvc"), read_size("1.5 pvc"), read_size("40 mm")
    (('1-1/2', 'in'), ('1-1/2', ''), ('40', 'mm'))
    """
    found = [m for m in _NUMBER.finditer(_GRADES.sub(" ", text)) if m.group(0).strip()]
    if not found:
        raise HydrarchError(f"'{text}' names no size; write it as 3/4 in or 32 mm")
    if len(found) > 1:
        told = " and ".join(f"'{m.group(0).strip()}'" for m in found)
        raise HydrarchError(f"'{text}' names {told}: write the one size of this side")
    sign, number, unit = found[0].group(1), found[0].group(2), found[0].group(3) or ""
    said = "mm" if unit.startswith("m") else "in" if unit else ""
    if sign == "-":
        raise HydrarchError(f"'{text}': a size is above nought")
    return (number.removesuffix(".0"), said) if said == "mm" else (_inches(number, text), said)


def _inches(number: str, text: str) -> str:
    """A number of inches as the trade writes it: whole, or with a fraction of sixteenths at the finest."""
    number = re.sub(r"[\s-]+(?=\d+/)", "-", number)
    if "." not in number:
        return number
    sixteenths = float(number) * 16
    if abs(sixteenths - round(sixteenths)) > 1e-6 or sixteenths <= 0:
        raise HydrarchError(f"'{text}': {number} in is no size that pipe is called by; write it as 3/4 or 1-1/2")
    whole, rest = divmod(round(sixteenths), 16)
    if not rest:
        return str(whole)
    below = 16
    while rest % 2 == 0:
        rest, below = rest // 2, below // 2
    return f"{whole}-{rest}/{below}" if whole else f"{rest}/{below}"


def _thing(text: str) -> PipeOrEnd:
    drip = _drip(text)
    if drip is not None:
        return drip
    for (system, gender), name in _ENDS.items():
        if _says(system, text) and (not gender or _says(gender, text)):
            size, _ = read_size(text)
            return PipeOrEnd(end=_known_end(f"{name}:{size}"))
    family = _family(text)
    if family is None:
        for word, ask in _ASK.items():
            if _says(word, text):
                raise HydrarchError(f"'{text}': {ask}")
        raise HydrarchError(f"'{text}' names no pipe or end we know; say sch 40, poly, PPR, NPT female and so on")
    size, unit = read_size(text)
    metric = unit == "mm"
    if metric or (unit == "" and size_is_metric(size)):
        family = _TWIN.get(family, family)
    if re.search(r"thin[\s-]*wall", text):
        family = (
            "sewer-thin"
            if family in ("pvc40", "sewer-sdr35") and not metric and size_value(size) >= 3
            else "pvc-sdr21"
            if family == "pvc40"
            else family
        )
    made = [p.size for p in series(family).sizes]
    if size not in made or (metric and not size_is_metric(size)):
        raise HydrarchError(
            f"'{text}': {series(family).name} is not made in {f'{size} {unit}'.strip()}; say one of {', '.join(made)}"
        )
    thread = thread_end(family)
    if _says("threaded", text) and thread is not None:
        return PipeOrEnd(series=family, size=size, end=_known_end(f"{thread}:{size}"))
    return PipeOrEnd(series=family, size=size)


def _says(word: str, text: str) -> bool:
    return re.search(rf"(?<![a-z]){re.escape(word)}(?![a-z])", text) is not None


def _family(text: str) -> str | None:
    """The series a text names: by its own short name, by a grade, or by its material, the longest words first."""
    for known in sorted(series_list(), key=lambda s: -len(s.short)):
        if known.kind != "drip" and (known.id in text.replace(" ", "-") or _says(known.short.lower(), text)):
            return known.id
    joined = re.sub(r"\b(sch|schedule|class|sdr|sidr|dr|pe|pn)\s*\.?\s*(?=\d)", r"\1", text)
    words = sorted((w for w in _MATERIALS if _says(w, text)), key=len, reverse=True)
    material = _MATERIALS[words[0]] if words else None
    grade = re.search(r"\b(sidr|sdr|dr)(\d+(?:\.\d+)?)\b", joined)
    if grade is not None:
        names = {
            f"-{grade.group(1)}{grade.group(2)}",
            *({f"-sdr{grade.group(2)}", f"-dr{grade.group(2)}"} if grade.group(1) != "sidr" else ()),
        }
        fits = [s.id for s in series_list() if any(s.id.endswith(n) for n in names)]
        said = next((m.group(2) for m in _NUMBER.finditer(_GRADES.sub(" ", text)) if m.group(0).strip()), "")
        fits = [f for f in fits if any(p.size == said for p in series(f).sizes)] or fits
        same = [f for f in fits if material is not None and series(f).material.startswith(series(material).material)]
        if same or len(fits) == 1:
            return (same or fits)[0]
        if fits:
            raise HydrarchError(f"'{text}' may be {' or '.join(series(f).name for f in fits)}: say which")
    for code, family in _CODES.items():
        if _says(code, joined) or code in joined.split():
            if material is not None and series(material).material == "steel":
                return {"pvc40": "galv40", "pvc80": "galv80"}.get(family, family)
            return family
    if material is None and re.search(r"thin[\s-]*wall", text):
        return "pvc40"
    return material


def _drip(text: str) -> PipeOrEnd | None:
    """Drip tubing, told by its bore: half an inch is one of three, and that is asked back."""
    if not (_says("drip", text) or _says("dripline", text) or re.search(r"(?<!\d)0?\.\d{3}\b", text)):
        return None
    kinds = [s for s in series_list() if s.kind == "drip" and s.id.startswith("drip-")]
    bore = re.search(r"(?<!\d)([01]?\.\d{3})\b", text)
    if bore is not None:
        name = f"drip-{round(float(bore.group(1)) * 1000)}"
        known = next((s for s in kinds if s.id == name), None)
        if known is None:
            bores = ", ".join(f".{s.id.removeprefix('drip-')}" for s in kinds)
            raise HydrarchError(f"'{text}': drip tubing is made with a bore of {bores} in; measure it once more")
        return PipeOrEnd(series=known.id, size=known.sizes[0].size)
    size, unit = read_size(text)
    if size == "16" and unit in ("", "mm"):
        return PipeOrEnd(series="drip-535", size="1/2")
    fits = [s for s in kinds if any(p.size == size for p in s.sizes)]
    if len(fits) == 1:
        return PipeOrEnd(series=fits[0].id, size=size)
    if fits:
        bores = ", ".join(f".{s.id.removeprefix('drip-')}" for s in fits)
        raise HydrarchError(
            f"'{text}' is one of {len(fits)} tubings, by its bore {bores} in: read its print or measure it, "
            "and say '.600 drip'"
        )
    raise HydrarchError(
        f"'{text}': drip tubing is called {', '.join(dict.fromkeys(p.size for s in kinds for p in s.sizes))}; "
        "say one of them, or its bore"
    )


def _known_end(name: str) -> str:
    if name not in ends():
        raise Unknown("end", name, [n for n in ends() if n.rsplit(":", 1)[0] == name.rsplit(":", 1)[0]] or ends())
    return name
