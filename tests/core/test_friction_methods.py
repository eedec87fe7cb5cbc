"""Friction by one mapping of methods: whoever works out a loss takes it from there."""

import re
import unittest
from collections.abc import Callable
from pathlib import Path

import numpy as np

from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.derivation.chain import derive
from hydrarch.core.hydraulics.friction import METHODS, head_loss_darcy_weisbach, head_loss_hazen_williams
from hydrarch.core.hydraulics.water import water
from tests.core.plans import draw, point

CORE = Path(__file__).resolve().parents[2] / "hydrarch" / "core"


class Methods(unittest.TestCase):
    """The mapping, and that nobody goes round it."""

    def test_each_is_its_formula(self) -> None:
        """A method gives what its formula gives, for numbers and for arrays, and its power law is its loss."""
        wet, item, family = water(288.15), pipe("pvc40", "1"), series("pvc40")
        flows = np.array([1e-4, 5e-4, 1e-3])
        args = (30.0, item.bore, family.hazen_williams_c, family.roughness, wet.density, wet.viscosity)
        plain: dict[str, Callable[[float], float]] = {
            "hazen-williams": lambda q: head_loss_hazen_williams(q, 30.0, item.bore, family.hazen_williams_c),
            "darcy-weisbach": lambda q: float(
                head_loss_darcy_weisbach(q, 30.0, item.bore, family.roughness, wet.density, wet.viscosity)
            ),
        }
        self.assertEqual(set(METHODS), set(plain))
        for name, method in METHODS.items():
            told = np.asarray(method.loss(flows, *args))
            np.testing.assert_allclose(told, [plain[name](float(q)) for q in flows], rtol=1e-12)
            if method.power_law is not None:
                np.testing.assert_allclose(
                    told, method.power_law(30.0, item.bore, family.hazen_williams_c) * flows**method.exponent
                )

    def test_nobody_asks_by_name(self) -> None:
        """No module of the core compares a method's name: the mapping decides."""
        for file in CORE.rglob("*.py"):
            self.assertIsNone(re.search(r"friction\s*[!=]=", file.read_text("utf-8")), file.name)

    def test_a_riser_goes_by_the_plans_method(self) -> None:
        """Under Darcy-Weisbach the same line is sized with another loss in its risers too: what is asked of the line is
        not Hazen-Williams'.
        """
        found = {}
        for name in METHODS:
            plan = draw(
                [
                    point("K", 0, 0, "tank", water_level=12.0),
                    point("T", 40, 0, "tap", height=6.0, flow=4e-4, needs=20e3),
                ],
                [("K", "T")],
                conditions={"friction": name},
                runs_more=[{"series": "pvc40"}],
            )
            found[name] = next(iter(derive(plan).sizes.flows.values())).outlets["T"].pressure
        self.assertNotAlmostEqual(found["hazen-williams"], found["darcy-weisbach"], delta=1.0)
