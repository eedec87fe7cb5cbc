"""The words of the trade, in both markets, and what each names: materials, grades, ends, and what is asked back."""

from __future__ import annotations

import re
from difflib import get_close_matches

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.markets import Market, market
from hydrarch.core.catalogue.pipes import series_list

__all__ = ["ASK", "CODES", "ENDS", "MATERIALS", "corrected", "known_word", "threaded", "tidy"]

MATERIALS = {
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
    "metric copper": "copper-metric",
    "steel pipe": "galv40",
    "black iron": "galv40",
    "soil pipe": "dwv40",
    "soil": "dwv40",
    "drainpipe": "sewer-sdr35",
    "drain": "sewer-sdr35",
    "underground drain": "sewer-sdr35",
    "cast iron": "cast-iron",
    "spa hose": "pvc-flex",
}
CODES = {
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
    "d3034": "sewer-sdr35",
    "d2729": "sewer-thin",
}
ENDS = {
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
ASK = {
    "hose": "say whether that hose thread is male, as a tap's spout is, or female, as the nut of a hose",
    "npt": "say whether that thread is male or female",
    "bsp": "say whether that thread is male or female",
    "clay": "we have no fittings for clay drain: measure its outside all round and the outside of the new pipe; a "
    "shielded band is sold by those two, and cut clay with a chain or a saw, never with a hammer",
    "concrete": "we have no fittings for concrete drain: measure its outside; a shielded band is sold by the two outsides",
    "asbestos": "do not cut or break asbestos cement: its dust kills; ask those who are licensed for it",
    "cpvc": "we have no CPVC fittings: its outside is that of copper tube, PVC cement does not hold it, and its own "
    "cement "
    "and fittings are needed; go over to a thread, and say that thread here",
    "abs": "we have no ABS fittings: cement for PVC alone does not hold it; a shielded band of that size joins the two",
    "well pipe": "well pipe may be polyethylene SIDR 7, PVC schedule 80 or 120, or galvanized: say which",
    "drop pipe": "a drop pipe may be polyethylene SIDR 7, PVC schedule 80 or 120, or galvanized: say which",
    "dn": "say the size as its pipe is called: 1 in, or 32 mm outside",
    "union": "say the union's thread: 'pump union male 1-1/2' for the coarse thread of a pump, or the pipes at its two "
    "sides with 'a union between'",
    "pump": "say what the pump's outlet is: a thread (npt female), or a union (pump union male)",
    "filter": "say what the filter's port is: a thread (npt female), or a union (pump union male)",
    "meter": "say what the meter's thread is: bsp or npt, male or female",
    "tap": "say 'hose tap' for a tap's spout, or the thread behind it",
    "check valve": "a check valve goes into a line that is drawn; here say the thread of its port",
    "elbow": "a bend belongs to a drawing, or to the question 'How long do I cut it?'; say the two ends that are to "
    "be joined",
    "toe nipple": "say which end: 'toe nipple 3/4 plain end', which takes a coupling, or 'toe nipple 3/4 threaded end'",
    "valve": "say what the valve's port is: a thread (3/4 npt female), a socket, or ask 'valve in a 1 in pvc line'",
    "bulkhead": "say 'tank wall 1 in' for the hole it goes through, or the socket or thread at its back",
    "manifold": "say what the manifold's port is: a thread, a socket or a barb, and its size",
    "thread": "say which thread it is (NPT, BSP, hose), and whether male or female",
    "pex": "we have no PEX fittings; its outside is that of copper tube, so a compression coupling for copper-size "
    "pipe of that size may grip it: measure it and read the coupling",
    "trap": "say what the trap ends in: a pipe of some size, or a thread",
    "cap": "to close a line, ask 'cap a 1 in pvc line'",
}

_TOE = "toe nipple"
_SIZE = r"(?:\d+[ -])?\d+(?:/\d+)?(?: in)?"
_SHORT: tuple[tuple[re.Pattern[str], str], ...] = tuple(
    (re.compile(pattern), words)
    for pattern, words in (
        (r"\bcopper[- ]size[d]? (?:plastic|poly(?:ethylene)?|pe)\b", "copper-size pe"),
        (r"\b(?:an? )?inch and (?:a |one )?(half|quarter)\b", r"one-and-a-\1 inch"),
        (r"\bone-and-a-half(?: inch)?\b", "1-1/2 in"),
        (r"\bone-and-a-quarter(?: inch)?\b", "1-1/4 in"),
        (r"\bthree[- ]quarters?(?:[- ]inch)?\b", "3/4 in"),
        (r"\bthree[- ]eighths?(?:[- ]inch)?\b", "3/8 in"),
        (r"\bhalf(?: an)?[- ]inch\b|\bhalf(?= (?:drip|poly|pvc|copper|lead|galv))", "1/2 in"),
        (r"\bquarter[- ]inch\b", "1/4 in"),
        (r"\bone[- ]inch\b", "1 in"),
        (r"\btwo[- ]inch\b", "2 in"),
        (r"\bthree[- ]inch\b", "3 in"),
        (r"\bfour[- ]inch\b", "4 in"),
        (r"\bsix[- ]inch\b", "6 in"),
        (r"\bsched(?:ule)?s?\b\.?", "sch"),
        (r"\bs(?=[48]0\b)", "sch "),
        (r"\bf\.?n\.?p\.?t\.?\b|\bfipt?\b|\bnpt f\b|\bf npt\b", "npt female"),
        (r"\bm\.?n\.?p\.?t\.?\b|\bmipt?\b|\bnpt m\b|\bm npt\b", "npt male"),
        (r"\bbspp\b|\bg (?=[\d])|\bg(?=\d)", "parallel "),
        (r"\bbspt\b", "bsp"),
        (r"\bparallel +f\b|\bf +parallel\b", "parallel female"),
        (r"\bparallel +m\b|\bm +parallel\b", "parallel male"),
        (r"\bfbsp\b|\bbsp f\b|\bf bsp\b|(?<=\d )fi\b|\bfemale iron\b", "bsp female"),
        (r"\bmbsp\b|\bbsp m\b|\bm bsp\b|(?<=\d )mi\b|\bmale iron\b", "bsp male"),
        (r"\bf(?:g?ht)\b|\bght f\b|\bf ght\b", "hose female"),
        (r"\bm(?:g?ht)\b|\bght m\b|\bm ght\b", "hose male"),
        (r"\bght\b|\bgarden[- ]hose\b", "hose"),
        (r"\bhose female hose\b", "hose female"),
        (
            r"\b(?:hose|outside|outdoor|garden|yard|wash)[- ](?:tap|faucet|bibb?|spigot|spout)\b|\bsill ?cock\b|\bbib ?cock\b"
            r"|\bfaucet\b",
            "hose tap",
        ),
        (r"\bstop[- ]?(?:cock|tap)\b", "stop valve"),
        (r"\bshut[- ]off\b", "shutoff"),
        (r"\bgal(?:vy|v)\b|\bg\.?i\.?(?= pipe)", "galvanized"),
        (
            rf"\b{_TOE} ({_SIZE})[ ,]*(?:the )?plain end\b,?|\bplain end of (?:an? |the )?({_SIZE}) ?{_TOE}\b",
            r"\1\2 sch 80 pvc",
        ),
        (
            rf"\b{_TOE} ({_SIZE})[ ,]*(?:the )?thread(?:ed)?(?: end)?\b,?|\bthreaded end of (?:an? |the )?({_SIZE}) ?{_TOE}\b",
            r"\1\2 npt male",
        ),
    )
)
"""Abbreviations and other names of a thing, and its name here; common practice."""
_POLY = re.compile(r"\b(\d+) ?(?:psi|lb)s?[- ]+((?:black |blue )?(?:poly(?:ethylene)?|pe)\b(?: pipe)?)")
_SIDR_OF_PSI = {"200": "7", "160": "9", "125": "11.5", "100": "15", "80": "19"}
"""SIDR of polyethylene sold by its pressure, PE of 625 psi stress (P = 2S/(R + 1)), rounded as printed; common
practice."""
_LETTER = re.compile(r"(?<=\s)([fm])(?=\s|$|,)")
_THREADS = re.compile(r"\b(?:npt|bsp|parallel|hose)\b")

FILLERS = frozenset(
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
        "does",
        "i",
        "go",
        "goes",
        "from",
        "it",
        "is",
        "are",
        "on",
        "for",
        "adapter",
        "adaptor",
        "what",
        "you",
        "we",
        "can",
        "like",
        "coupling",
        "coupler",
        "reducer",
        "reducing",
        "bushing",
        "transition",
        "main",
        "mains",
        "lateral",
        "service",
        "supply",
        "feed",
        "itself",
        "same",
        "each",
        "other",
        "together",
        "water",
        "half",
        "halves",
        "joint",
        "joints",
        "need",
        "want",
        "get",
        "put",
        "make",
        "making",
        "between",
        "two",
        "both",
        "one",
        "there",
        "here",
        "at",
        "best",
        "way",
        "off",
        "out",
        "tee",
        "branch",
        "saddle",
        "repair",
        "something",
        "fit",
        "fits",
        "size",
        "sizes",
        "using",
        "use",
        "plain",
        "off",
        "already",
        "nothing",
        "cut",
        "yet",
        "up",
        "its",
        "outlet",
        "port",
        "site",
        "take",
        "run",
        "tap",
        "splice",
        "extend",
        "lengthen",
    ]
)
"""Words that change nothing in a question."""
_CONDITION_WORDS = [
    "without",
    "solvent",
    "cement",
    "glue",
    "gluing",
    "glued",
    "heat",
    "flame",
    "torch",
    "fusion",
    "iron",
    "solder",
    "fixed",
    "held",
    "valve",
    "valves",
    "union",
    "unions",
    "removable",
    "serviceable",
    "drinking",
    "potable",
    "buried",
    "underground",
    "ground",
    "trench",
    "neither",
    "moves",
    "moved",
    "turns",
    "turned",
    "cannot",
    "apart",
    "comes",
    "taken",
    "ball",
    "gate",
    "stop",
    "shutoff",
    "isolation",
    "waste",
    "bar",
    "kpa",
    "psi",
    "hot",
    "cold",
    "degrees",
    "outside",
    "nick",
    "nicked",
    "split",
    "burst",
    "crack",
    "cracked",
    "leak",
    "leaking",
    "broken",
    "hole",
    "damaged",
    "mend",
    "chewed",
    "pinhole",
    "male",
    "female",
    "close",
    "plug",
    "staggered",
    "compression",
    "barb",
]


@remembered()
def _named() -> frozenset[str]:
    named = [*MATERIALS, *CODES, *(word for end in ENDS for word in end)]
    named += [word for s in series_list() for word in (s.id, s.short, s.name)]
    named += ["sch schedule class sdr sidr dr pn pe thin wall thinwall drip dripline tap mdpe"]
    return FILLERS | {w for text in named for w in re.findall(r"[a-z]+", text.lower())}


def known_word(word: str) -> bool:
    """Whether a word names something here, or changes nothing in a question; single letters count as known."""
    return all(part in _named() or len(part) < 2 for part in re.split(r"[-']", word))


def tidy(text: str) -> str:
    """Lower-case words with abbreviations and other names written out: "3/4 fnpt" as "3/4 npt female"."""
    text = " ".join(text.lower().split())
    text = _POLY.sub(lambda m: f"sidr {_SIDR_OF_PSI[m[1]]} {m[2]}" if m[1] in _SIDR_OF_PSI else m[0], text)
    for pattern, words in _SHORT:
        text = pattern.sub(words, text)
    halves = re.split(r"( (?:to|into|onto|x) )", text)
    return " ".join("".join(_gendered(h) for h in halves).split())


def _gendered(half: str) -> str:
    """A side of a question with "f" and "m" beside a thread written out."""
    if not _THREADS.search(half) or re.search(r"\bfemale\b|\bmale\b", half):
        return half
    return _LETTER.sub(lambda m: "female" if m[1] == "f" else "male", half)


def corrected(text: str) -> tuple[str, tuple[tuple[str, str], ...]]:
    """A question with words that are nearly ones of the trade read as those, and each with what it was read as."""
    known = sorted(w for w in _named() | set(_CONDITION_WORDS) if len(w) > 3)
    found: dict[str, str] = {}
    for word in dict.fromkeys(re.findall(r"[a-z]{5,}", text)):
        if word in _CONDITION_WORDS or known_word(word):
            continue
        near = get_close_matches(word, known, 1, 0.82)
        if near and near[0].rstrip("s") != word.rstrip("s"):
            found[word] = near[0]
    for word, near_word in found.items():
        text = re.sub(rf"\b{word}\b", near_word, text)
    return text, tuple(found.items())


_BARE_THREAD = re.compile(r"\b(male|female)(?: (?:pipe )?thread(?:ed)?)?\b")
_OTHER_END = re.compile(r"\b(?:npt|bspp?|parallel|hose|union|buttress|flange|compression|barb|spigot|socket)\b")


def threaded(text: str, shop: Market) -> tuple[str, tuple[tuple[str, str], ...]]:
    """A question with threads that are not named read as those of a market, and each with what it was read as; left as
    it is where both are sold.
    """
    if shop == "both":
        return text, ()
    thread, found = market(shop).thread, list[tuple[str, str]]()

    def named(half: str) -> str:
        said = _BARE_THREAD.search(half)
        if said is None or _OTHER_END.search(half):
            return half
        found.append((said[0], f"{thread} {said[1]}"))
        return _BARE_THREAD.sub(rf"{thread} \1", half, count=1)

    halves = re.split(r"( (?:to|into|onto|x|and) )", text)
    return "".join(named(h) for h in halves), tuple(found)
