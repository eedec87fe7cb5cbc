"""What a job's shop sells: threads and families of pipe of its own world, and no adapters between worlds where none is
asked for.
"""

import unittest
from typing import Any

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.markets import market, markets
from hydrarch.core.derivation.chain import Derivation, derive
from tests.core.plans import draw, point

DEVICES = ("valve", "check_valve", "union", "filter", "backflow", "vent", "regulator", "pump")
PIPES = {
    "north-american": (("pvc40", "1"), ("pe-sidr7", "1"), ("galv40", "1"), ("pvc80", "1-1/4")),
    "elsewhere": (
        ("pe100-sdr11", "25"),
        ("ppr-s3.2", "25"),
        ("pvc-metric", "32"),
        ("galv40", "1"),
        ("pe100-sdr11", "63"),
    ),
}


def through(where: str, pipe: tuple[str, str], kind: str, **more: Any) -> Derivation:
    """A line from a tank through one device to a tap, all of one pipe."""
    series, size = pipe
    points = [point("K", 0, 0, "tank", water_level=20), point("V", 6, 0, kind), point("T", 12, 0, "tap", height=0.0)]
    runs_more = [{"series": series, "size": size}] * 2
    return derive(
        draw(
            points,
            [("K", "V"), ("V", "T")],
            runs_more=runs_more,
            conditions={"market": where, "series": series},
            **more,
        )
    )


class Markets(unittest.TestCase):
    """Two worlds."""

    def test_nothing_is_sent_for(self) -> None:
        """Every device goes into every pipe of its market with parts the shop sells, and no pipe cut into pieces to
        change worlds.
        """
        for where, pipes in PIPES.items():
            foreign = market(where).foreign  # type: ignore[arg-type]
            for pipe in pipes:
                for kind in DEVICES:
                    with self.subTest(market=where, pipe=pipe, kind=kind):
                        done = through(where, pipe, kind)
                        self.assertEqual([p.says for p in done.problems() if p.severity == "stop"], [])
                        parts = [fitting(p.fitting) for p in done.assembly.parts]
                        sold = [p for p in parts if p.material != "pipe"]
                        self.assertEqual([p.name for p in sold if any(e.end.system in foreign for e in p.ports)], [])
                        self.assertEqual(
                            [p.name for p in parts if any(e.end.system == "universal" for e in p.ports)], []
                        )

    def test_metric_polyethylene_takes_a_valve(self) -> None:
        """PE100 of 25 mm takes a compression valve with two joints, a check valve or filter in thread, and no glued
        stub (common practice).
        """
        wanted = {"valve": ("compression", 2), "check_valve": ("bsp", 4), "filter": ("bsp", 6), "backflow": ("bsp", 6)}
        for kind, (system, most) in wanted.items():
            with self.subTest(kind=kind):
                done = through("elsewhere", ("pe100-sdr11", "25"), kind)
                body = next(fitting(p.fitting) for p in done.assembly.parts if p.point == "V" and p.end is None)
                self.assertEqual({e.end.system for e in body.ports}, {system})
                joints = [j for j in done.assembly.joints if j.point == "V"]
                self.assertLessEqual(len(joints), most)
                self.assertNotIn("solvent weld", {j.method for j in joints})

    def test_steel_is_threaded_as_the_shop_threads_it(self) -> None:
        """A galvanized pipe's own thread is NPT in North America and BSP elsewhere, and so are its couplings."""
        for where, system in (("north-american", "npt"), ("elsewhere", "bsp"), ("both", "npt")):
            done = through(where, ("galv40", "1"), "valve")
            ends = {s.end for j in done.assembly.joints for s in (j.a, j.b) if s.pipe}
            self.assertEqual({e.split(":")[0] for e in ends}, {system})

    def test_a_port_may_differ(self) -> None:
        """A pump with American threads in a metric job is led to as it is; the rest of the job stays what the shop
        sells.
        """
        body = through("elsewhere", ("pe100-sdr11", "25"), "pump").plan.model_dump(mode="json")
        body["points"][1]["ports"] = {"in": "npt:female:1", "out": "hose:male:3/4"}
        done = derive(type(through("elsewhere", ("pe100-sdr11", "25"), "pump").plan).model_validate(body))
        last = {j.b.end for j in done.assembly.joints if j.b.what == "pump V"}
        self.assertEqual(last, {"npt:female:1", "hose:male:3/4"})
        # no piece of soft drip tubing leads to a pump where a thread can
        self.assertEqual([p.code for p in done.problems() if p.severity == "stop"], [])

    def test_a_drain_is_of_what_the_shop_sells(self) -> None:
        """Where drains are sold by metric diameters a yard's is 110 mm on gaskets throughout, its fittings too;
        American sewer pipe is not sent for.
        """
        spots = [
            point("G", 0, 0, "drain_inlet", flow=1e-3, depth=0.4),
            point("H", 4, 8, "drain_inlet", flow=5e-4, depth=0.4),
            point("J", 12, 0, "junction", depth=0.7),
            point("B", 18, 0, "bend", depth=0.85),
            point("O", 18, -9, "outfall", depth=1.1),
        ]
        runs = [("G:out", "J"), ("H:out", "J"), ("J", "B"), ("B", "O")]
        for practice in ("sdr35", "thin", "dwv"):
            done = derive(draw(spots, runs, conditions={"market": "elsewhere"}, practices={"drain": practice}))
            with self.subTest(practice):
                self.assertEqual({(p.series, p.size) for p in done.settled.pipes.values()}, {("drain-metric", "110")})
                self.assertEqual({j.method for j in done.assembly.joints}, {"gasket bell"})
                placed = sorted(fitting(p.fitting).id for p in done.assembly.parts)
                self.assertEqual(placed, ["drain-bend-87-1_2-110", "drain-wye-110"])
                self.assertEqual([p.says for p in done.problems() if p.severity != "note"], [])
        american = derive(draw(spots, runs, conditions={"market": "north-american"}))
        self.assertEqual({p.series for p in american.settled.pipes.values()}, {"sewer-sdr35"})

    def test_every_market_is_whole(self) -> None:
        """Its usual pipe and threads are in the catalogue, and it does not leave out what it sells."""
        for row in markets().values():
            self.assertNotIn(row.thread, row.foreign)
            self.assertNotIn(row.hose, row.foreign)
            self.assertTrue(row.source)
            self.assertEqual(row.drain_pipe(row.drain), row.drain)


if __name__ == "__main__":
    unittest.main()
