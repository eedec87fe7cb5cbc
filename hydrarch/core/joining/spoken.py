"""A pipe or an end in a crew's own words: "1-1/2 in sch 40", "25 mm PE", "3/4 npt female".

Read right, or asked back; never silently another size.
"""

from __future__ import annotations

import re

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.base.units import size_is_metric, size_value
from hydrarch.core.catalogue.fittings import ends
from hydrarch.core.catalogue.pipes import pipe, series, series_list, thread_end
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.vocabulary import ASK, CODES, ENDS, MATERIALS

__all__ = ["GRADES", "NUMBER", "names_pipe", "plain", "read_series", "read_size", "read_thing"]

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
GRADES = re.compile(r"\b(?:sch(?:edule)?|class|sdr|sidr|dr|pn|s)\s*\.?\s*(\d+(?:\.\d+)?)\b|\bpe\s*100\b")
NUMBER = re.compile(
    r"(?<![\d./])(-?)\s*(\d+[\s-]+\d+/\d+|\d+/\d+|\d*\.\d+|\d+)\s*(mm|millimet(?:er|re)s?|in(?:ch(?:es)?)?\b\.?|\")?"
)
_TWIN = {"pe-sidr7": "pe100-sdr11", "pvc40": "pvc-metric", "sewer-sdr35": "drain-metric", "dwv40": "drain-metric"}
_TWIN["copper-l"] = "copper-metric"


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
    found = [m for m in NUMBER.finditer(GRADES.sub(" ", text)) if m.group(0).strip()]
    if not found:
        raise HydrarchError(f"'{text}' names no size; write it as 3/4 in or 32 mm")
    if len(found) > 1:
        told = " and ".join(f"'{m.group(0).strip()}'" for m in found)
        raise HydrarchError(f"'{text}' names {told}: write the one size of this side")
    sign, number, unit = found[0].group(1), found[0].group(2), found[0].group(3) or ""
    said = "mm" if unit.startswith("m") else "in" if unit else ""
    if sign == "-":
        raise HydrarchError(f"'{text}': a size must be above zero")
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


def names_pipe(text: str) -> bool:
    """Whether a text names a pipe, by its material, its grade or as drip tubing."""
    return _is_drip(text) or _family(text) is not None


def read_series(text: str) -> str:
    """The series a text names, whatever its size. Raises `HydrarchError` where it names none."""
    found = _family(text)
    if found is None:
        raise HydrarchError(f"'{text}' names no pipe we know; say sch 40, SIDR 15, PE100 SDR 11, PPR and so on")
    return found


def _is_drip(text: str) -> bool:
    return _says("drip", text) or _says("dripline", text) or re.search(r"(?<!\d)0?\.\d{3}\b", text) is not None


def read_thing(text: str) -> PipeOrEnd:
    """One side of a question: a pipe by its series and size, or an end.

    Raises `HydrarchError` for what is not understood, with what to say instead.
    """
    drip = _drip(text)
    if drip is not None:
        return drip
    if re.search(r"\bdn ?\d", text):
        raise HydrarchError(f"'{text}': {ASK['dn']}")
    if _says("hose tap", text) and re.search(r"\b(?:parallel|bsp)\b", text):
        return PipeOrEnd(end=_known_end(f"bspp:male:{read_size(text)[0]}"))  # as taps are threaded where BSP is sold
    for (system, gender), name in ENDS.items():
        if _says(system, text) and (not gender or _says(gender, text)):
            size, _ = read_size(text)
            return PipeOrEnd(end=_known_end(f"{name}:{size}"))
    family = _family(text)
    if family is None:
        for word, ask in ASK.items():
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
    words = sorted((w for w in MATERIALS if _says(w, text)), key=len, reverse=True)
    material = MATERIALS[words[0]] if words else None
    grade = re.search(r"\b(sidr|sdr|dr)(\d+(?:\.\d+)?)\b", joined)
    if grade is not None:
        names = {
            f"-{grade.group(1)}{grade.group(2)}",
            *({f"-sdr{grade.group(2)}", f"-dr{grade.group(2)}"} if grade.group(1) != "sidr" else ()),
        }
        fits = [s.id for s in series_list() if any(s.id.endswith(n) for n in names)]
        said = next((m.group(2) for m in NUMBER.finditer(GRADES.sub(" ", text)) if m.group(0).strip()), "")
        fits = [f for f in fits if any(p.size == said for p in series(f).sizes)] or fits
        same = [f for f in fits if material is not None and series(f).material.startswith(series(material).material)]
        if same or len(fits) == 1:
            return (same or fits)[0]
        if fits:
            raise HydrarchError(f"'{text}' may be {' or '.join(series(f).name for f in fits)}: say which")
    for code, family in CODES.items():
        if _says(code, joined) or code in joined.split():
            if material is not None and series(material).material == "steel":
                return {"pvc40": "galv40", "pvc80": "galv80"}.get(family, family)
            return family
    if material is None and re.search(r"thin[\s-]*wall", text):
        return "pvc40"
    return material


def _drip(text: str) -> PipeOrEnd | None:
    """Drip tubing, told by its bore: half an inch is one of three, and that is asked back."""
    if not _is_drip(text):
        return None
    kinds = [s for s in series_list() if s.kind == "drip" and s.id.startswith("drip-")]
    bore = re.search(r"(?<!\d)([01]?\.\d{3})\b", text)
    if bore is not None:
        name = f"drip-{round(float(bore.group(1)) * 1000)}"
        known = next((s for s in kinds if s.id == name), None)
        if known is None:
            outside = float(bore.group(1)) * 25.4e-3
            by_outside = [s for s in kinds if abs(pipe(s.id, s.sizes[0].size).outside - outside) < 0.1e-3]
            if len(by_outside) == 1:
                return PipeOrEnd(series=by_outside[0].id, size=by_outside[0].sizes[0].size)
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
