"""Which pipe to hang the pump on: every candidate against what hangs on it, what presses in it, who pulls it and what
it costs.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, pi

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import HydrarchError, OutOfRange, Unknown
from hydrarch.core.base.units import FOOT, PSI, STANDARD_GRAVITY, System, check_range, show, show_apart, size_value
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.catalogue.markets import Market, MarketRow, market
from hydrarch.core.catalogue.pipes import THREADED, Pipe, pressure_rating, series, thread_end
from hydrarch.core.catalogue.prices import pipe_price, pipe_weight
from hydrarch.core.catalogue.tables import read_rows, yes_or_no
from hydrarch.core.hydraulics.friction import head_loss_hazen_williams, velocity
from hydrarch.core.hydraulics.pumps import power
from hydrarch.core.hydraulics.water import water
from hydrarch.core.wells.hole import Hole, VesselSizes, vessel_size

__all__ = [
    "CHECK_EVERY",
    "SAFETY",
    "HangingPipe",
    "StringCheck",
    "DropPipe",
    "DropPipes",
    "Duty",
    "candidates",
    "check_body",
    "drop_pipes",
]

DOUBT = (
    "What joints carry is taken with a margin of two from strengths known by memory, threads at half of the "
    "pipe's rating: the maker's table for your pipe wins."
)
HORSEPOWER = 745.7
SAFETY = 2.0
"""What a joint must hold over what hangs on it: twice, cautious, from memory."""
COUPLING = {"thread": 0.35, "barb and clamp": 0.25}
"""How much wider a joint is than its pipe, as a share of the outside diameter; estimate from coupling tables, from
memory."""
LEAST_WATER = 2.0
"""m of water over a pump at work, that it draws no air; common practice."""
NEAR_SHUT = 0.9
"""Share of its shut-off head beyond which a pump gives next to nothing; common practice."""
OFF_BOTTOM = 3.0
"""m (10 ft) between a pump and the bottom of the well; common practice."""
GAP = 3e-3
"""m between a pump and its casing all round; from memory."""
CLEARANCE = 6e-3
"""Least room (m) all round a joint in the casing, for the cable and for pulling; from memory."""
CHECK_EVERY = 200 * FOOT
"""Deep strings carry a check valve at the pump and about every 200 ft, common practice."""
FAST = 1.5
FASTEST = 3.0
"""Above 1.5 m/s the water begins to cost; above 3 it hammers: common practice."""
HAND_LIMIT = 60.0
"""kg a hand crew of two lifts out of a hole again and again; cautious, from memory."""
_SCHOOLS = ("pulling", "strength")


@dataclass(frozen=True, slots=True)
class Duty:
    """What is asked of the string: flow (m³/s), pressure wanted at the well head (Pa, gauge), and what hangs in the
    hole.

    `outlet` is the size of the pump's thread, `pump_weight` kg, `cable_weight` kg/m, `horsepower` of the motor,
    `shut_off` the head (m) the pump makes against a shut valve, `width` (m) its diameter, 3-3/4 in for what is sold as
    a 4-in one. `aggressive`, `iron` and `sand` describe the water, `hoist` whether a hoist pulls it. `school` is the
    crew's view of polyethylene: "pulling" (not beyond 30 m) or "strength". Money and hours as in a job's conditions.
    What the shops of a `market` do not sell is taken last.
    """

    flow: float
    pressure: float
    outlet: str = "1-1/4"
    pump_weight: float = 15.0
    cable_weight: float = 0.3
    horsepower: float = 1.0
    shut_off: float = 100.0
    aggressive: bool = False
    iron: bool = False
    sand: bool = False
    hoist: bool = False
    school: str = "pulling"
    temperature: float = 285.15
    energy_price: float = 0.3
    run_hours: float = 400.0
    efficiency: float = 0.45
    cut_in: float = 200e3
    cut_out: float = 340e3
    width: float = 0.0953
    units: System = "metric"
    market: Market = "both"

    def __post_init__(self) -> None:
        """Refuse what no well asks."""
        check_range("flow", self.flow, 1e-5, 0.2, "flow")
        check_range("pressure at the well head", self.pressure, 0, 3e6, "pressure")
        check_range("the pump's weight", self.pump_weight, 1, 1000, "mass")
        check_range("shut-off head", self.shut_off, 5, 2000, "head")
        check_range("the pump's diameter", self.width, 0.03, 1.0, "diameter")
        if not 0.1 <= self.horsepower <= 100:
            raise OutOfRange("horsepower", self.horsepower, 0.1, 100, "hp")
        if self.school not in _SCHOOLS:
            raise Unknown("school of polyethylene depth", self.school, _SCHOOLS)


@dataclass(frozen=True, slots=True)
class StringCheck:
    """A check valve at `depth` (m), and the body its pressure asks for."""

    depth: float
    body: str
    says: str


@dataclass(frozen=True, slots=True)
class DropPipe:
    """One pipe judged. `hanging` and `carries`, what its joints may, in kg, forces in N, pressures in Pa, lengths in m,
    `energy` and `price` in money a year and once.

    `rejected` names every limit that rules it out, `minds` what speaks against it without ruling it out.
    """

    series: str
    name: str
    size: str
    joint: str
    hanging: float
    carries: float
    pulls: float
    holds: float
    bottom_shut: float
    bottom_running: float
    rating: float
    friction: float
    velocity: float
    energy: float
    price: float
    life: float
    sticks: int
    rejected: tuple[str, ...]
    minds: tuple[str, ...]
    yearly: float


@dataclass(frozen=True, slots=True)
class DropPipes:
    """Every candidate, the sound ones first by what they cost a year, and what the well needs beside the pipe.

    `level` (m) is the water's depth while pumping, `head` (m) what the pump must make at the duty on the best pipe,
    `pump_wrong` is why the pump does not do there, whatever pipe it hangs on; `power` (W) what it draws, `torque` (N·m)
    what the motor twists the string with while it runs.
    """

    candidates: tuple[DropPipe, ...]
    level: float
    head: float | None
    power: float | None
    most: float
    checks: tuple[StringCheck, ...]
    pitless: str
    torque: float
    vessel: VesselSizes
    cautions: tuple[Caution, ...]
    says: str
    doubt: str = DOUBT
    pump_wrong: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class HangingPipe:
    """A series a pump is hung on: how it is joined, the strength (Pa) of its material and the share of it a joint
    holds.

    `practice_depth` (m) is how deep crews go with it, None where nobody minds; `life` in years in ordinary water.
    """

    series: str
    joint: str
    strength: float
    share: float
    practice_depth: float | None
    life: float
    corrodes: bool
    source: str


@remembered()
def candidates() -> dict[str, HangingPipe]:
    """Every series a pump is hung on, by its id, with what its joints carry."""
    return {row.series: row for row in _rows()}


@remembered()
def _rows() -> tuple[HangingPipe, ...]:
    def make(r: dict[str, str]) -> HangingPipe:
        series(r["series"])
        deep = float(r["practice_depth_ft"]) * FOOT if r["practice_depth_ft"] else None
        return HangingPipe(
            r["series"],
            r["joint"],
            float(r["strength_psi"]) * PSI,
            float(r["joint_share"]),
            deep,
            float(r["life_years"]),
            yes_or_no(r["corrodes"]),
            r["source"],
        )

    return read_rows("hydrarch.core.wells", "candidates.csv", make)


@remembered()
def _limits() -> dict[tuple[str, str], tuple[float, float]]:
    def make(r: dict[str, str]) -> tuple[tuple[str, str], tuple[float, float]]:
        return (r["series"], r["size"]), (float(r["most_hp"]), float(r["most_depth_ft"]) * FOOT)

    return dict(read_rows("hydrarch.core.wells", "limits.csv", make))


@remembered()
def _bodies() -> tuple[tuple[str, float], ...]:
    return read_rows("hydrarch.core.wells", "checks.csv", lambda r: (r["body"], float(r["depth_ft"]) * FOOT))


def drop_pipes(hole: Hole, duty: Duty) -> DropPipes:
    """Judge every candidate pipe for hanging the pump, and rank those that stand all limits by what they cost a year.

    Raises `HydrarchError` where the hole cannot give the flow, or where no pipe of ours fits the casing.
    """
    most = hole.most()
    if duty.flow > most:
        have, want = (show(q, "flow", duty.units) for q in (most, duty.flow))
        why = (
            f"the test shows no more than {have}: test the well at {want} first"
            if hole.limited_by_test
            else f"the well gives {have} before the water comes down to the pump, less than the {want} asked"
        )
        raise HydrarchError(why)
    found = []
    for row in _rows():
        for item in series(row.series).sizes:
            if (
                size_value(item.size) < 0.75
                or size_value(item.size) > 4
                or _joint_width(item, row) > hole.casing - 2 * CLEARANCE
            ):
                continue
            found.append(_judge(hole, duty, row, item))
    if not found:
        raise HydrarchError("no pipe of ours with its joints goes down that casing: check its inside diameter")
    shop = market(duty.market)
    found.sort(key=lambda c: (bool(c.rejected), len(c.rejected), not sold_in(shop, c.series, c.size), c.yearly))
    best = found[0] if not found[0].rejected else None
    head = _lift(hole, duty) + best.friction if best else None
    drawn = power(duty.flow, head, duty.efficiency) if head is not None else None
    vessel = vessel_size(duty.flow, duty.cut_in, duty.cut_out)
    wrong = _pump_wrong(hole, duty, best.friction if best else min(c.friction for c in found))
    says = (
        f"Another pump, or another place for it: {'; '.join(wrong)}."
        if wrong
        else f"{best.name}, {best.size}: the cheapest a year of those that stand every limit"
        f"{'' if duty.market == 'both' else ' and are sold here' if sold_in(shop, best.series, best.size) else '; it has to be sent for'}."
        if best
        else "No pipe stands every limit; the first breaks the fewest."
    )
    return DropPipes(
        candidates=tuple(found),
        level=hole.level(duty.flow),
        head=head,
        power=drawn,
        most=most,
        checks=_checks(hole, duty),
        pitless=_pitless(best, duty),
        torque=_torque(duty),
        vessel=vessel,
        cautions=cautions_for("well_pump", "drop pipe"),
        says=says,
        pump_wrong=wrong,
    )


def hung_end(shop: MarketRow, name: str, size: str) -> str:
    """The end (by name) by which a string of a series hangs, in a shop's market."""
    return f"{thread}:{size}" if (thread := thread_end(name)) else shop.pipe_end(name, size)


def sold_in(shop: MarketRow, name: str, size: str) -> bool:
    """Whether a shop of that market sells what a string of that pipe is joined with."""
    return end(hung_end(shop, name, size)).system not in shop.foreign


def _pump_wrong(hole: Hole, duty: Duty, friction: float) -> tuple[str, ...]:
    """Why the pump does not do in that hole on any pipe: it is under water by too little, it makes too little head, it
    does not go down, or it draws what lies at the bottom.
    """
    units, found = duty.units, []
    under = hole.pump - hole.level(duty.flow)
    if under < LEAST_WATER - 1e-9:
        found.append(
            f"it hangs with {show(max(under, 0.0), 'length', units)} of water over it while it pumps, and wants "
            f"{show(LEAST_WATER, 'length', units)}: hang it deeper or pump less"
        )
    head = _lift(hole, duty) + friction
    if head > NEAR_SHUT * duty.shut_off:
        needs, makes = show_apart(head, duty.shut_off, "head", units)
        found.append(
            f"{needs} of head is needed at that flow, and it makes {makes} with its outlet shut: so near to that, or "
            "beyond it, it gives next to nothing; take a stronger one"
        )
    if duty.width + 2 * GAP > hole.casing:
        wide, bore = (show(x, "diameter", units) for x in (duty.width, hole.casing))
        found.append(f"it is {wide} wide and does not go down a casing of {bore}")
    above = hole.depth - hole.pump
    if above < OFF_BOTTOM - 1e-9:
        found.append(
            f"it hangs {show(above, 'length', units)} off the bottom and draws sand and silt: "
            f"{show(OFF_BOTTOM, 'length', units)} at the least"
        )
    return tuple(found)


def _pitless(best: DropPipe | None, duty: Duty) -> str:
    if best is None:
        return ""
    weight, pressure = (
        show(best.hanging, "mass", duty.units),
        show(duty.shut_off * water(duty.temperature).weight, "pressure", duty.units),
    )
    return f"A pitless adapter that is rated for {weight} hanging and {pressure}, below the frost."


def _torque(duty: Duty) -> float:
    """Running torque (N·m) of a two-pole motor at about 2,850 turns a minute; at the start it is two or three times
    that.
    """
    return duty.horsepower * HORSEPOWER / (2 * pi * 2850 / 60)


def _joint_width(item: Pipe, row: HangingPipe) -> float:
    return item.outside * (1 + COUPLING[row.joint])


def _lift(hole: Hole, duty: Duty) -> float:
    """Head (m) without friction: from the pumping level up, and the pressure wanted at the top."""
    return hole.level(duty.flow) + duty.pressure / water(duty.temperature).weight


def _judge(hole: Hole, duty: Duty, row: HangingPipe, item: Pipe) -> DropPipe:
    family, wet = series(item.series), water(duty.temperature)
    filled = pi / 4 * item.bore**2 * wet.density
    hanging = hole.pump * (pipe_weight(item) + filled + duty.cable_weight) + duty.pump_weight
    pulls = hanging * STANDARD_GRAVITY
    section = pi / 4 * (item.outside**2 - (item.outside - 2 * item.wall) ** 2)
    holds = row.strength * row.share * section / SAFETY
    friction = head_loss_hazen_williams(duty.flow, hole.pump, item.bore, family.hazen_williams_c)
    v = float(velocity(duty.flow, item.bore))
    shut = (
        duty.shut_off * wet.weight
    )  # at the pump, more than the water outside: that stands as high as at the pump's inlet
    running = (_lift(hole, duty) + friction + hole.pump - hole.level(duty.flow)) * wet.weight
    rating = pressure_rating(item, duty.temperature) * (THREADED if row.joint == "thread" and not row.corrodes else 1.0)
    energy = power(duty.flow, friction, duty.efficiency) / 1e3 * duty.run_hours * duty.energy_price
    price = hole.pump * pipe_price(item)
    life = row.life / 2 if row.corrodes and duty.aggressive else row.life
    rejected, minds = _limits_broken(hole, duty, row, item, pulls, holds, shut, rating, v)
    stick = family.stick
    return DropPipe(
        series=item.series,
        name=family.name,
        size=item.size,
        joint=row.joint,
        hanging=hanging,
        carries=holds / STANDARD_GRAVITY,
        pulls=pulls,
        holds=holds,
        bottom_shut=shut,
        bottom_running=running,
        rating=rating,
        friction=friction,
        velocity=v,
        energy=energy,
        price=price,
        life=life,
        sticks=ceil(hole.pump / stick) if stick else 1,
        rejected=tuple(rejected),
        minds=tuple(minds),
        yearly=energy + price / life,
    )


def _limits_broken(
    hole: Hole,
    duty: Duty,
    row: HangingPipe,
    item: Pipe,
    pulls: float,
    holds: float,
    shut: float,
    rating: float,
    v: float,
) -> tuple[list[str], list[str]]:
    rejected: list[str] = []
    minds: list[str] = []
    if pulls > holds:
        most, hang = (show(force / STANDARD_GRAVITY, "mass", duty.units) for force in (holds, pulls))
        rejected.append(f"its joints may carry {most} with a margin of two, and {hang} hang on them")
    if shut > rating:
        have, see = (show(p, "pressure", duty.units) for p in (rating, shut))
        half = ", half of plain pipe for its threads" if row.joint == "thread" and not row.corrodes else ""
        rejected.append(
            f"at the pump it sees {see} more inside than outside with the valve shut, and is rated {have}{half}"
        )
    known = _limits().get((item.series, item.size))
    if known is not None:
        most_hp, deep = known
        if duty.horsepower > most_hp + 1e-9:
            rejected.append(
                f"crews hang pumps to {most_hp:g} hp on it, and this one has {duty.horsepower:g} (common practice)"
            )
        if hole.pump > deep:
            rejected.append(f"crews set it to about {show(deep, 'well depth', duty.units)} (common practice)")
    if row.practice_depth is not None and hole.pump > row.practice_depth + 0.5:
        deep_enough = show(row.practice_depth, "well depth", duty.units)
        words = f"one slimy coil deeper than about {deep_enough} cannot be unstacked when it is pulled"
        (rejected if duty.school == "pulling" else minds).append(f"{words} (common practice)")
    if row.corrodes and duty.aggressive:
        minds.append("aggressive water eats it in half its usual years: plastic is the better choice")
    if duty.iron and row.joint == "barb and clamp":
        minds.append("iron slime makes a coil slip through hands and pullers")
    if duty.sand and row.corrodes:
        minds.append("sand wears the zinc off, and rust follows")
    if duty.horsepower >= 0.75 and not row.corrodes:
        minds.append("put a torque arrester above the pump: plastic twists at every start")
    if v > FASTEST:
        rejected.append(
            f"the water would run at {show(v, 'velocity', duty.units)}, and above "
            f"{show(FASTEST, 'velocity', duty.units)} it hammers (common practice)"
        )
    elif v > FAST:
        minds.append(f"the water runs at {show(v, 'velocity', duty.units)}: friction begins to cost")
    if not duty.hoist and pulls / STANDARD_GRAVITY > HAND_LIMIT:
        hangs, hands = (show(x, "mass", duty.units) for x in (pulls / STANDARD_GRAVITY, HAND_LIMIT))
        rejected.append(f"{hangs} hang on it, and without a hoist two people lift {hands} (cautious, from memory)")
    if size_value(item.size) != size_value(duty.outlet):
        wider = "a bushing" if size_value(item.size) < size_value(duty.outlet) else "a reducing coupling"
        minds.append(f"{wider} between the pump's {duty.outlet} outlet and the pipe, of metal")
    if duty.hoist and row.joint == "barb and clamp":
        minds.append("a hoist takes sticks apart; a coil needs room to lay out")
    return rejected, minds


def check_body(pressed: float) -> str:
    """The body of a check valve that a head of `pressed` (m) asks for."""
    return next((b for b, deep in _bodies() if pressed <= deep), "beyond our table: ask the maker")


def _checks(hole: Hole, duty: Duty) -> tuple[StringCheck, ...]:
    """Where check valves go: at the pump, and every 200 ft up a deep string; each with the body its depth asks for."""
    found = []
    depth, first = hole.pump, True
    while first or depth > CHECK_EVERY / 2:
        pressed = max(depth, duty.shut_off - hole.static + depth)  # all that stands on it with the valve shut
        body = check_body(pressed)
        says = (
            "at the pump's outlet; drill none, drain it before pulling"
            if first
            else "so that a long column does not fall on the one below"
        )
        found.append(StringCheck(depth, body, says))
        first = False
        depth -= CHECK_EVERY
        if depth <= CHECK_EVERY / 2:
            break
    return tuple(found)
