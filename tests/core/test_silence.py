"""What used to be passed over in silence: frost, chemicals, unlike metals, a pump that starts too often."""

import itertools
import unittest
from typing import Any

from hydrarch.core.base.problems import Problem
from hydrarch.core.circulation.pits import most_starts
from hydrarch.core.derivation.chain import derive
from tests.core.plans import codes, draw, point


def told(spots: list[dict[str, Any]], runs: list[tuple[str, str]], **more: Any) -> dict[str, Problem]:
    """What is told of a plan, by code."""
    return {p.code: p for p in derive(draw(spots, runs, **more)).problems()}


def _buried(depth: float, frost: float | None, about: str = "service") -> dict[str, Problem]:
    spots = [point("M", 0, 0, "mains", depth=depth), point("T", 20, 0, "tap", depth=depth)]
    laid = [{"situation": "buried", "series": "pe100-sdr11", "size": "25"}]
    return told(spots, [("M", "T")], about=about, conditions={"frost": frost}, runs_more=laid)


class Frost(unittest.TestCase):
    """Cover against the depth that frost goes to, as it was told."""

    def test_by_depth(self) -> None:
        """A service above it is warned of, at it or below it is not; a line that is drained down is noted only."""
        self.assertEqual(_buried(0.5, 0.75)["above-frost"].severity, "warn")
        self.assertIn("750 mm", _buried(0.5, 0.75)["above-frost"].says)
        for depth, frost in ((0.75, 0.75), (0.9, 0.75), (0.5, 0.0), (0.5, None)):
            self.assertNotIn("above-frost", _buried(depth, frost), (depth, frost))
        self.assertEqual(_buried(0.4, 0.75, "sprinklers")["above-frost"].severity, "note")


class Chemicals(unittest.TestCase):
    """An injector on drinking water: only a preventer of the reduced-pressure type parts it, as codes have it."""

    def _line(self, *chain: tuple[str, dict[str, Any]], tap: str = "") -> dict[str, Problem]:
        spots = [point("M", 0, 0, "mains"), point("J", 5, 0, "junction")]
        runs = [("M", "J")]
        before = "J"
        for n, (kind, more) in enumerate(chain):
            spots.append(point(f"X{n}", 10 + 5 * n, 0, kind, **more))
            runs.append((before, f"X{n}"))
            before = f"X{n}"
        spots.append(point("S", 60, 0, "sprinkler"))
        runs.append((before, "S"))
        if tap:
            spots.append(point("T", 5, 9, "tap"))
            runs.append((tap, "T"))
        return told(spots, runs)

    def test_only_reduced_pressure_guards(self) -> None:
        """Nothing, a type that is not said, a vacuum breaker and a double check are dangers; a check valve is, too."""
        for makes in ("not said", "vacuum breaker", "double check"):
            found = self._line(("backflow", {"makes": makes}), ("injector", {}))["chemical-backflow"]
            self.assertEqual((found.severity, found.danger), ("stop", True), makes)
        self.assertIn("chemical-backflow", self._line(("injector", {})))
        self.assertIn("chemical-backflow", self._line(("check_valve", {}), ("injector", {})))
        self.assertNotIn("chemical-backflow", self._line(("backflow", {"makes": "reduced pressure"}), ("injector", {})))
        behind = self._line(("injector", {}), ("backflow", {"makes": "reduced pressure"}))
        self.assertIn("chemical-backflow", behind)

    def test_no_tap_behind_it(self) -> None:
        """A tap on the clean side is none of its; one behind it is a danger."""
        clean = self._line(("backflow", {"makes": "reduced pressure"}), ("injector", {}), tap="J")
        self.assertNotIn("chemical-tap", clean)
        self.assertTrue(
            self._line(("backflow", {"makes": "reduced pressure"}), ("injector", {}), tap="X1")["chemical-tap"].danger
        )


class Metals(unittest.TestCase):
    """Copper and galvanized steel joined in one line."""

    def test_where_they_meet(self) -> None:
        """Told at the point, once for the job; not where plastic lies between."""

        def line(*families: tuple[str, str]) -> dict[str, Problem]:
            spots = [point("M", 0, 0, "mains")]
            spots += [point(f"J{n}", 10 * n + 10, 0, "union") for n in range(len(families) - 1)]
            spots.append(point("T", 10 * len(families), 0, "tap"))
            ids = [p["id"] for p in spots]
            laid = [{"series": s, "size": size} for s, size in families]
            return told(spots, list(itertools.pairwise(ids)), runs_more=laid)

        self.assertIn("J0", line(("copper-l", "3/4"), ("galv40", "3/4"))["galvanic"].where)
        self.assertNotIn("galvanic", line(("copper-l", "3/4"), ("pvc40", "3/4"), ("galv40", "3/4")))
        self.assertNotIn("galvanic", line(("galv40", "3/4"), ("galv40", "3/4")))


class Starts(unittest.TestCase):
    """How often a pit's pump starts: the shortest cycle is 4 V / Q, where half of what it lifts comes (common
    practice).
    """

    def test_the_worst_inflow(self) -> None:
        """Against stepping through a cycle: filling V at the inflow, emptying it at the difference."""
        gives, stores = 0.002, 0.03
        for comes in (0.0002, 0.001, 0.0018):
            inflows = [comes * n / 500 for n in range(1, 501)]
            most = max(3600 / (stores / q + stores / (gives - q)) for q in inflows)
            self.assertAlmostEqual(most_starts(gives, comes, stores), most, delta=0.01 * most)

    def test_floats_too_close(self) -> None:
        """Floats that leave five litres are told with the volume that is enough; unmeasured ones are not guessed at."""
        spots = [point("S", 0, 0, "sump", stores=0.005, comes=0.0004), point("O", 20, 0, "outfall", ground=1.0)]
        runs = [("S", "O")]
        self.assertIn("times an hour", told(spots, runs)["pit-starts"].says)
        spots[0]["what"]["stores"] = 0.0
        self.assertNotIn("pit-starts", told(spots, runs))
        spots[0]["what"] |= {"stores": 5.0, "starts": 10.0}
        self.assertNotIn("pit-starts", told(spots, runs))


class HalfDrawn(unittest.TestCase):
    """A device with nothing at its inlet yet."""

    def test_no_water_comes_to_a_regulator(self) -> None:
        """Whichever of its ports is free, and whatever else is fed: sizes are worked out, and what is missing is told."""
        spots = [point("M", 0, 0, "mains"), point("PR", 10, 0, "regulator"), point("T", 20, 0, "tap")]
        for runs in ([("M", "PR:out"), ("PR:out", "T")], [("M", "T"), ("PR:out", "T")], [("M", "PR:in")]):
            done = derive(draw(spots, runs), strict=True)
            self.assertEqual(set(done.sizes.choices), {f"R{n}" for n in range(1, len(runs) + 1)})
            self.assertTrue({"end-not-at-end", "device-not-in-line", "outlet-without-source"} & set(codes(done.plan)))


if __name__ == "__main__":
    unittest.main()
