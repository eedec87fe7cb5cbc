"""Ends and fittings: what each offers, which pairs make a joint, and by which method."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import log10, pi, radians

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import INCH, size_is_metric
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.own import own
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.tables import read_rows

__all__ = [
    "End",
    "Fitting",
    "Loss",
    "Port",
    "end",
    "ends",
    "fitting",
    "fittings",
    "fully_turbulent_friction_factor",
    "insert_loss_coefficient",
    "joint_depth",
    "mates_of",
    "mating_method",
    "pipe_end",
    "pipe_ends",
    "reduction_loss_coefficient",
    "end_systems",
]

_PACKAGE = "hydrarch.core.catalogue"
_GENDERS = {"deep": "deep socket", "flex": "flexible spigot"}
_INNER = frozenset({"male", "spigot", "pipe", "tube", "insert", "flex", "body", "barb"})


@dataclass(frozen=True, slots=True)
class End:
    """What a pipe or fitting offers to be joined: system, gender and nominal size.

    `diameter` (m) is the one the joint is made on, `engagement` (m) how much of the other part it takes. A wide-range
    nut has a `least` (m) too: it takes any outside from there to `diameter`.
    """

    system: str
    gender: str
    size: str
    diameter: float
    least: float | None
    engagement: float
    threads_per_inch: float | None
    source: str
    name: str = field(init=False, compare=False)

    def __post_init__(self) -> None:
        """Write its name once: `system:gender:size`, as the data files have it."""
        object.__setattr__(self, "name", f"{self.system}:{self.gender}:{self.size}")

    def __hash__(self) -> int:
        """By its name: what is remembered of ends is looked up often."""
        return hash(self.name)

    def words(self) -> str:
        """How a crew would say it."""
        unit = "mm" if size_is_metric(self.size) or (self.least is not None and ".." in self.size) else "in"
        return f"{self.size.replace('..', ' to ')} {unit} {self.kind_words()}"

    def kind_words(self) -> str:
        """Its system and gender as a crew would say it."""
        return f"{end_systems()[self.system]} {_GENDERS.get(self.gender, self.gender)}"

    def takes(self, outside: float) -> bool:
        """Whether a wide-range nut takes a pipe of that outside diameter (m)."""
        return self.least is not None and self.least - 1e-6 <= outside <= self.diameter + 1e-6

    @property
    def enters(self) -> bool:
        """Whether it goes inside its mate."""
        return self.gender in _INNER or (self.gender == "wall" and self.system.startswith("saddle"))


@dataclass(frozen=True, slots=True)
class Port:
    """One opening of a fitting: its end, centre-to-stop distance (m) and direction (rad) in the fitting's plane.

    The stop is the plane where the other part's end comes to rest: the socket's floor, the barb's shoulder, the
    thread's place when made up; for a male end it is its own tip.
    """

    end: End
    stop: float
    direction: float


@dataclass(frozen=True, slots=True)
class Loss:
    """How a fitting loses head: equivalent lengths in diameters for run and branch, a narrowed bore (m), a step."""

    run: float = 0.0
    branch: float = 0.0
    bore: float | None = None
    reduces: bool = False


@dataclass(frozen=True, slots=True)
class Fitting:
    """A generic part with its ports. `angle` (rad) is the turn between its first two ports."""

    id: str
    name: str
    family: str
    material: str
    ports: tuple[Port, ...]
    loss: Loss
    source: str

    def __hash__(self) -> int:
        """By its id, as it is looked up often."""
        return hash(self.id)

    @property
    def angle(self) -> float:
        """Turn (rad) of the line between the first two ports: 0 for a straight part."""
        return 0.0 if len(self.ports) < 2 else abs(self.ports[1].direction) % (2 * pi)


@remembered()
def end_systems() -> dict[str, str]:
    """The systems of ends, in words."""
    return dict(read_rows(_PACKAGE, "systems.csv", lambda row: (row["system"], row["words"])))


@remembered()
def ends() -> dict[str, End]:
    """Every end by its name."""

    def make(row: dict[str, str]) -> End:
        diameter, engagement = float(row["diameter_in"]) * INCH, float(row["engagement_in"]) * INCH
        if diameter <= 0 or engagement <= 0:
            raise ValueError("diameter and engagement must be above zero")
        if row["system"] not in end_systems():
            raise ValueError(f"'{row['system']}' is not a system of ends")
        least = float(row["least_in"]) * INCH if row["least_in"] else None
        if least is not None and not 0 < least < diameter:
            raise ValueError("the least diameter it takes must be below the largest")
        tpi = float(row["threads_per_in"]) if row["threads_per_in"] else None
        return End(row["system"], row["gender"], row["size"], diameter, least, engagement, tpi, row["source"])

    return {e.name: e for e in read_rows(_PACKAGE, "ends.csv", make)}


def end(name: str) -> End:
    """The end called `system:gender:size`; raises `Unknown` with the nearest."""
    found = ends().get(name)
    if found is None:
        raise Unknown("end", name, ends())
    return found


@remembered()
def pipe_ends(series_name: str, size: str) -> tuple[End, ...]:
    """The ends a cut pipe of a series offers, the usual one first; raises `Unknown`."""
    item = pipe(series_name, size)
    known = ends()
    return tuple(known[name] for e in series(series_name).ends if (name := f"{e}:{item.size}") in known)


def pipe_end(series_name: str, size: str) -> End:
    """The end a cut pipe usually offers: a spigot, its bore, a thread; raises `Unknown` where none of ours fits it."""
    offered = pipe_ends(series_name, size)
    if not offered:
        raise Unknown("joint for pipe", f"{series_name} {size}")
    return offered[0]


def _loss(text: str) -> Loss:
    if text == "none":
        return Loss()
    if text == "reduce":
        return Loss(reduces=True)
    run = branch = 0.0
    bore = None
    for part in text.split(";"):
        key, _, value = part.partition("=")
        if key == "LD":
            first, _, second = value.partition("/")
            run, branch = float(first), float(second or first)
        elif key == "bore":
            bore = float(value) * INCH
        else:
            raise ValueError(f"'{part}' is not a way to lose head")
    return Loss(run, branch, bore)


def _fitting(row: dict[str, str]) -> Fitting:
    names, stops, turns = (row[c].split("|") for c in ("ports", "stops_in", "directions_deg"))
    if not len(names) == len(stops) == len(turns):
        raise ValueError("ports, stops and directions differ in number")
    ports = tuple(Port(end(n), float(s) * INCH, radians(float(t))) for n, s, t in zip(names, stops, turns, strict=True))
    return Fitting(row["id"], row["name"], row["family"], row["material"], ports, _loss(row["loss"]), row["source"])


@remembered()
def fittings() -> dict[str, Fitting]:
    """Every fitting by its id."""
    return {f.id: f for f in (*read_rows(_PACKAGE, "fittings.csv", _fitting), *own().fittings)}


def fitting(name: str) -> Fitting:
    """The fitting with that id; raises `Unknown` with the nearest."""
    found = fittings().get(name)
    if found is None:
        raise Unknown("fitting", name, fittings())
    return found


@remembered()
def _methods() -> dict[frozenset[str], str]:
    def make(row: dict[str, str]) -> tuple[frozenset[str], str]:
        method(row["method"])
        return frozenset((f"{row['system_a']}:{row['gender_a']}", f"{row['system_b']}:{row['gender_b']}")), row[
            "method"
        ]

    return dict(read_rows(_PACKAGE, "matings.csv", make))


def mating_method(a: End, b: End) -> str | None:
    """The method that joins two ends soundly, or None when they make no joint."""
    return _mating(a.name, b.name)


@remembered()
def _by_kind() -> dict[str, tuple[tuple[int, End], ...]]:
    """Ends by their system and gender, each with its place among all."""
    found: dict[str, list[tuple[int, End]]] = {}
    for n, e in enumerate(ends().values()):
        found.setdefault(f"{e.system}:{e.gender}", []).append((n, e))
    return {kind: tuple(mine) for kind, mine in found.items()}


def mates_of(e: End) -> tuple[tuple[str, str], ...]:
    """The ends (by name) that a sound joint can be made with, each with its method, in the order of all ends."""
    kind = f"{e.system}:{e.gender}"
    kinds = {other for pair in _methods() if kind in pair for other in (pair - {kind} or pair)}
    near = sorted(((n, o) for other in kinds for n, o in _by_kind().get(other, ())), key=lambda x: x[0])
    return tuple((o.name, m) for _, o in near if (m := mating_method(e, o)) is not None)


def joint_depth(a: End, b: End) -> float:
    """How far (m) one of two mated ends goes into or over the other: the socket's depth where there is one, else the
    deeper.
    """
    socket = next((e for e in (a, b) if e.gender == "socket"), None)
    return socket.engagement if socket else max(a.engagement, b.engagement)


@remembered()
def _mating(one: str, two: str) -> str | None:
    a, b = end(one), end(two)
    ranged = a if a.least is not None else b if b.least is not None else None
    fits = a.size == b.size if ranged is None else ranged.takes((b if ranged is a else a).diameter)
    if not fits:
        return None
    return _methods().get(frozenset((f"{a.system}:{a.gender}", f"{b.system}:{b.gender}")))


@remembered()
def fully_turbulent_friction_factor(bore: float) -> float:
    """Darcy friction factor f_T of clean commercial steel of that bore (m), the scale of equivalent lengths L/D.

    f_T = 0.25 / log10(ε/(3.7 D))², ε = 0.0018 in. Source: Crane TP-410, from memory; Nikuradse's rough-pipe law.
    """
    return 0.25 / log10(0.0018 * INCH / (3.7 * bore)) ** 2


def insert_loss_coefficient(pipe_bore: float, insert_bore: float) -> float:
    """Loss coefficient K, on the pipe's velocity, of a short narrowing from `pipe_bore` to `insert_bore` (m) and back.

    K = [0.5·(1 − β²) + (1 − β²)²] / β⁴ with β the ratio of bores: contraction after Crane TP-410, expansion after
    Borda-Carnot. 0 where the insert is not narrower.
    """
    beta = insert_bore / pipe_bore
    if beta >= 1:
        return 0.0
    return float((0.5 * (1 - beta**2) + (1 - beta**2) ** 2) / beta**4)


def reduction_loss_coefficient(bore_small: float, bore_large: float) -> float:
    """Loss coefficient K, on the velocity in the smaller bore (m), of a sudden step: 0.5·(1 − β²), Crane TP-410.

    The step down is used both ways; a step up loses (1 − β²)², which is less for β above 0.71.
    """
    if bore_small >= bore_large:
        return 0.0
    return 0.5 * (1 - (bore_small / bore_large) ** 2)
