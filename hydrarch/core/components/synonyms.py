"""Other names of component types, in both markets: what a crew types, or looks for, beside their titles."""

from __future__ import annotations

from hydrarch.core.base.cache import remembered
from hydrarch.core.components.base import kinds

__all__ = ["also", "named"]

_ALSO = {
    "junction": "tee, branch, wye",
    "bend": "elbow, corner, ell, sweep",
    "valve": "ball valve, stop valve, gate valve, isolating valve, isolation valve, shutoff valve, shut-off valve, "
    "stopcock, stop tap, zone valve, solenoid valve",
    "check_valve": "check, non-return valve, spring check valve, swing check valve, backwater valve",
    "union": "true union",
    "filter": "screen filter, strainer, y strainer, disc filter, sand filter",
    "backflow": "preventer, backflow, vacuum breaker, reduced pressure preventer, double check valve",
    "pump": "pump, booster, booster pump, pond pump, circulation pump",
    "regulator": "regulator, pressure reducer, pressure reducing valve, prv",
    "vent": "air valve, air vent, vent, air release valve",
    "three_way": "three way valve, 3-way valve, 3 way valve, diverter, diverter valve",
    "relief": "relief, pressure relief valve, safety valve, t&p valve, temperature and pressure relief valve",
    "injector": "injector, fertigation injector, doser",
    "vessel": "pressure tank, vessel, accumulator",
    "expansion_tank": "expansion tank, expansion vessel, thermal expansion tank",
    "heater": "heater, water heater, boiler, chiller, heat exchanger",
    "mains": "mains, main tapping, city water, street main, supply",
    "tank": "tank, pond, cistern, rain tank, reservoir",
    "well_pump": "well, borehole pump, submersible pump",
    "tap": "faucet, hose tap, hose bib, hose bibb, spigot, bibcock, sillcock, standpipe tap, outlet",
    "hydrant": "yard hydrant, quick coupler",
    "sprinkler": "head, sprinkler head, pop-up, popup, pop-up head, rotor, spray head",
    "bubbler": "tree bubbler",
    "drip": "drip, drip line",
    "drip_row": "row, row of emitters, dripline, emitters",
    "top_up": "float, ballcock, auto fill",
    "cap": "end, plug, blank end",
    "drain_inlet": "gully, catch basin, inlet, yard drain, yard gully, area drain",
    "downpipe": "downspout, rainwater pipe, leader, gutter, conductor",
    "channel_drain": "trench drain, slot drain, line drain, grated channel",
    "floor_drain": "cellar drain, shower drain, floor gully",
    "waste": "waste, penetration, stack, waste pipe, soil stack, soil pipe, building drain, house drain, waste stack",
    "washer": "washing machine, clothes washer, laundry, greywater",
    "laundry_standpipe": "laundry standpipe, washer standpipe, trap, p-trap, air gap, washing machine standpipe",
    "outfall": "outfall, outlet of a drain, open end, ditch, daylight",
    "sewer_connection": "sewer connection, street connection, sewer, lateral, septic tank, connection",
    "soakaway": "dry well, infiltration pit, soak pit, french drain",
    "pop_up": "pop up outlet, pop-up emitter, pop up emitter, bubbler pot, lawn outlet",
    "sump": "sump, sump pump, pit, pit pump",
    "suction_cover": "suction, drain cover, main drain, bottom drain",
    "bulkhead": "bulkhead, tank fitting",
    "returns": "return fitting, inlet fitting, eyeball",
    "standpipe": "overflow, overflow pipe",
    "basin": "pond basin, tub, pool, show tank",
    "blower": "air pump, air blower",
    "jet": "hydro jet",
    "pitless": "pitless",
    "wash_basin": "basin, lavatory, lav, hand basin, vanity, bathroom sink",
    "shower": "shower head, shower mixer",
    "bath": "bathtub, bath tub",
    "closet": "toilet, wc, water closet, cistern, flush tank",
    "bidet": "bidet",
    "kitchen_sink": "sink, kitchen tap, kitchen faucet, kitchen mixer",
    "laundry_tap": "laundry box, washing machine tap, washing machine valve, laundry sink, laundry tray",
    "dishwasher": "dishwashing machine",
    "garden_tap": "outdoor tap, outside tap, wall hydrant, frost-free hose bib",
    "mark": "mark, benchmark, reference mark",
    "equipment": "meter, water meter, softener, controller, timer, machine",
}
"""By component type, lower case, parted by commas; common practice."""


@remembered()
def also(name: str) -> tuple[str, ...]:
    """Other names of a component type; none for one that has no other."""
    return tuple(_ALSO[name].split(", ")) if name in _ALSO else ()


def named(words: str) -> str | None:
    """The component type that is called so, by its title or another of its names; None where none is."""
    wanted = " ".join(words.lower().split())
    by_title = next((k.name for k in kinds().values() if wanted == k.title.lower()), None)
    return by_title or next((name for name in _ALSO if wanted in also(name)), None)
