"""Friction, water and the network solver against outside values, and laws that must hold."""

import unittest

import fluids
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import FOOT, GALLON, INCH
from hydrarch.core.hydraulics.friction import (
    friction_factor,
    friction_factor_colebrook,
    head_loss_darcy_weisbach,
    head_loss_hazen_williams,
    velocity,
)
from hydrarch.core.hydraulics.links import Emitter, PipeLink, PumpLink
from hydrarch.core.hydraulics.network import Network, Solution
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.hydraulics.water import Water, water
from tests.checks.values import networks, values

GPM = GALLON / 60


def _si(inputs: dict[str, float]) -> tuple[float, float, float]:
    flow = inputs["Q_gpm"] * GPM if "Q_gpm" in inputs else inputs["Q_Lps"] * 1e-3
    bore = inputs["ID_in"] * INCH if "ID_in" in inputs else inputs["ID_mm"] * 1e-3
    length = inputs["L_ft"] * FOOT if "L_ft" in inputs else inputs.get("L_m", 0.0)
    return flow, bore, length


class Friction(unittest.TestCase):
    """Head loss in one pipe."""

    def test_one_inch_bore_at_25_gpm(self) -> None:
        """25 US gal/min in 100 ft of 1.049 in bore loses about 30 ft at C = 150 (common practice)."""
        loss = head_loss_hazen_williams(25 * GPM, 100 * FOOT, 1.049 * INCH, 150) / FOOT
        self.assertAlmostEqual(loss, 30, delta=0.1)

    def test_heavy_pipe_at_25_gpm(self) -> None:
        """The same through heavy 1 in PVC of 0.891 in bore loses about 66 ft (common practice)."""
        self.assertAlmostEqual(head_loss_hazen_williams(25 * GPM, 100 * FOOT, 0.891 * INCH, 150) / FOOT, 66, delta=1.0)

    def test_hazen_williams_table(self) -> None:
        """H = 10.67 L Q^1.852/(C^1.852 d^4.8704) within 0.25 % of every printed form."""
        for v in values("friction", "HW_"):
            flow, bore, length = _si(v.inputs)
            got = head_loss_hazen_williams(flow, length, bore, v.inputs["C"])
            self.assertLessEqual(abs(got / (FOOT if v.unit == "ft" else 1) - v.expected), v.tolerance, v.id)

    def test_velocity_table(self) -> None:
        """V = Q/A against 0.4085 q/d² and its SI form."""
        for v in values("friction", "V_"):
            flow, bore, _ = _si(v.inputs)
            got = float(velocity(flow, bore)) / (FOOT if v.unit == "ft/s" else 1)
            self.assertLessEqual(abs(got - v.expected), v.tolerance, v.id)

    def test_darcy_weisbach_table(self) -> None:
        """Colebrook and laminar losses agree with fluids.friction on the same water, outside Re 2000 to 4000."""
        seen = 0
        for v in values("friction", "DW_"):
            flow, bore, length = _si(v.inputs)
            rho, mu = v.inputs["rho_kg_m3"], v.inputs["mu_Pa_s"]
            if 2000 < rho * velocity(flow, bore) * bore / mu < 4000:
                continue
            seen += 1
            got = head_loss_darcy_weisbach(flow, length, bore, v.inputs["roughness_mm"] * 1e-3, rho, mu)
            self.assertLessEqual(abs(got / (FOOT if v.unit == "ft" else 1) - v.expected), v.tolerance, v.id)
        self.assertGreater(seen, 15)

    @given(st.floats(4000, 1e8), st.floats(0, 0.05))
    def test_colebrook_is_solved_exactly(self, reynolds: float, rough: float) -> None:
        """Agrees with fluids' Colebrook, and satisfies the equation itself."""
        f = float(friction_factor_colebrook(reynolds, rough))
        self.assertAlmostEqual(f / fluids.friction.Colebrook(reynolds, rough), 1, places=8)

    @given(st.floats(1, 1999))
    def test_laminar_is_64_over_re(self, reynolds: float) -> None:
        """Below Re 2000 roughness does not matter."""
        self.assertAlmostEqual(float(friction_factor(reynolds, 0.01)), 64 / reynolds, places=10)

    @given(st.floats(1e-6, 0.02), st.floats(1.001, 1.2))
    def test_more_flow_loses_more(self, flow: float, more: float) -> None:
        """Head loss grows with flow through laminar, transition and turbulence."""
        loss = [float(head_loss_darcy_weisbach(q, 10, 0.03, 1e-5, 999.0, 1.1e-3)) for q in (flow, flow * more)]
        self.assertGreater(loss[1], loss[0])


class Properties(unittest.TestCase):
    """Water by temperature."""

    def test_density_and_viscosity(self) -> None:
        """Within 0.02 % and 0.5 % of IAPWS-95 as computed by CoolProp 8.0."""
        for v in values("friction", "water_rho"):
            got = water(v.inputs["T_C"] + 273.15).density
            self.assertLess(abs(got / v.expected - 1), 2e-4, v.id)
        for v in values("friction", "water_mu"):
            if v.inputs["T_C"] <= 60:
                got = water(max(v.inputs["T_C"], 0.0) + 273.15).viscosity * (1e3 if v.unit == "mPa s" else 1)
                self.assertLess(abs(got / v.expected - 1), 5e-3, f"{v.id} {v.unit}")

    def test_out_of_range(self) -> None:
        """Ice and steam are refused with the range."""
        with self.assertRaisesRegex(OutOfRange, r"water temperature is -5 °C; it must lie between 0 °C and 100 °C"):
            water(268.15)


def check_network(name: str) -> tuple[Network, Water, str]:
    """A network of network.json as ours."""
    given_ = networks()[name]["input"]
    wet = given_.get("water")
    fluid = Water(wet["T_C"] + 273.15, wet["rho"], wet["mu"]) if wet else water(288.15)
    pipes = tuple(
        PipeLink(
            id=p["id"],
            start=p["frm"],
            stop=p["to"],
            length=p["L_m"],
            bore=p["ID_mm"] * 1e-3,
            hazen_williams_c=p.get("C", 150.0),
            roughness=p.get("roughness_mm", 0.0) * 1e-3,
        )
        for p in given_["pipes"]
    )
    emitters = tuple(
        Emitter(f"{n} out", n, given_["elevation_m"][n], k * 1e-3, given_["exponent"])
        for n, k in given_.get("emitter_k_Lps_per_sqrt_m", {}).items()
    )
    heads = given_.get("reservoir_head_m") or given_["source_head_m"]
    demands = {n: q * 1e-3 for n, q in given_.get("demand_Lps", {}).items()}
    return (
        Network(heads, demands, pipes, (), emitters),
        fluid,
        "darcy-weisbach" if name.endswith("DW") else "hazen-williams",
    )


class Networks(unittest.TestCase):
    """Whole networks."""

    def test_solved_networks(self) -> None:
        """Two loops by both formulas and a tree of emitters agree with independently solved flows and heads."""
        for name in ("N1_two_loop_HW", "N1_two_loop_DW", "N2_tree_emitters_HW"):
            network, fluid, formula = check_network(name)
            found = solve_network(network, fluid, formula)  # type: ignore[arg-type]
            results = networks()[name]["results"]
            for link, flow in results["flow_Lps"]["values"].items():
                self.assertAlmostEqual(found.flows[link] * 1e3, flow, delta=1e-6, msg=f"{name} {link}")
            for node, head in results["head_m"]["values"].items():
                self.assertAlmostEqual(found.heads[node], head, delta=1e-5, msg=f"{name} {node}")

    def test_well_pump_against_its_system(self) -> None:
        """A pump of H = 62 − 1e7 Q² lifting 34 m settles where curve and system meet."""
        case = networks()["N3_well_no_drawdown_HW"]
        curve = tuple((q, 62 - 1e7 * q**2) for q in np.linspace(0, 0.0024, 49))
        drop, yard = case["input"]["pipes"]
        links = (
            PipeLink(
                id="drop", start="p", stop="m", length=drop["L_m"], bore=drop["ID_mm"] * 1e-3, minor=drop["sum_K"]
            ),
            PipeLink(
                id="yard", start="m", stop="tank", length=yard["L_m"], bore=yard["ID_mm"] * 1e-3, minor=yard["sum_K"]
            ),
        )
        found = solve_network(
            Network({"w": -18.0, "tank": 16.0}, {}, links, (PumpLink("pump", "w", "p", curve),)), water(288.15)
        )
        expected = case["results"]["flow_Lps"]
        self.assertAlmostEqual(found.flows["pump"] * 1e3, expected["values"]["pump"], delta=expected["tolerance"])

    def test_symmetric_loop_with_a_still_pipe(self) -> None:
        """Six equal heads on a loop: the far pipe carries exactly nothing, where dh/dQ is 0 in Hazen-Williams."""
        case = networks()["N4a_loop_symmetric"]
        ft = FOOT
        feed = case["input"]["feed_psi"] * case["input"]["ft_per_psi"] * ft
        links = tuple(
            PipeLink(
                id=p["id"],
                start=p["frm"],
                stop=p["to"],
                length=p["L_ft"] * ft,
                bore=p["ID_in"] * INCH,
                hazen_williams_c=p["C"],
            )
            for p in case["input"]["pipes"]
        )
        k = case["input"]["emitter_k_gpm_per_sqrt_psi"] * GPM / (case["input"]["ft_per_psi"] * ft) ** 0.5
        heads = tuple(Emitter(f"{n} out", n, 0.0, k, 0.5) for n in case["input"]["elevation_ft"])
        found = solve_network(Network({"F": feed}, {}, links, (), heads), water(288.15))
        for link, gpm in case["results"]["flow_gpm"]["values"].items():
            self.assertAlmostEqual(found.flows[link] / GPM, gpm, delta=0.02, msg=link)
        self.assertAlmostEqual(found.flows["L4"], 0.0, places=12)

    def test_two_parallel_pipes_by_hand(self) -> None:
        """Parallel pipes share the flow so that their losses agree, as a root finder on one unknown says."""
        links = (
            PipeLink(id="a", start="s", stop="t", length=50, bore=0.03),
            PipeLink(id="b", start="s", stop="t", length=80, bore=0.04),
        )
        found = solve_network(Network({"s": 20.0}, {"t": 0.002}, links), water(288.15))
        share = brentq(
            lambda q: head_loss_hazen_williams(q, 50, 0.03, 150) - head_loss_hazen_williams(0.002 - q, 80, 0.04, 150),
            0,
            0.002,
        )
        self.assertAlmostEqual(found.flows["a"], share, places=9)

    def test_check_valve_bars_the_way_back(self) -> None:
        """Between a low and a high tank a one-way pipe shuts, and opens when the levels change places."""
        pipe = PipeLink(id="p", start="low", stop="mid", length=10, bore=0.03, one_way=True)
        rest = PipeLink(id="q", start="mid", stop="high", length=10, bore=0.03)
        shut = solve_network(Network({"low": 1.0, "high": 5.0}, {}, (pipe, rest)), water(288.15))
        self.assertEqual(shut.shut, ("p",))
        self.assertEqual(shut.flows["p"], 0.0)
        opened = solve_network(Network({"low": 5.0, "high": 1.0}, {}, (pipe, rest)), water(288.15))
        self.assertGreater(opened.flows["p"], 0.001)

    def test_a_node_without_a_source_is_an_error_with_words(self) -> None:
        """A part of the network that no known head reaches is refused."""
        with self.assertRaisesRegex(HydrarchError, "no way to a source"):
            solve_network(
                Network({"s": 1.0}, {"b": 1e-3}, (PipeLink(id="p", start="a", stop="b", length=1, bore=0.02),)),
                water(288.15),
            )


def random_network(draw: st.DrawFn) -> Network:
    """A connected network of 3 to 12 nodes with loops and demands."""
    count = draw(st.integers(3, 12))
    bores = st.sampled_from([0.0158, 0.0209, 0.0266, 0.0351, 0.0409])
    links = []
    for n in range(1, count):
        links.append(
            PipeLink(
                id=f"t{n}",
                start=str(draw(st.integers(0, n - 1))),
                stop=str(n),
                length=draw(st.floats(1, 200)),
                bore=draw(bores),
                minor=draw(st.floats(0, 5)),
            )
        )
    for n in range(draw(st.integers(0, 5))):
        a, b = draw(st.integers(0, count - 1)), draw(st.integers(0, count - 1))
        if a != b:
            links.append(
                PipeLink(id=f"l{n}", start=str(a), stop=str(b), length=draw(st.floats(1, 200)), bore=draw(bores))
            )
    demands = {str(n): draw(st.floats(0, 8e-4)) for n in range(1, count)}
    return Network({"0": 50.0}, demands, tuple(links))


class Laws(unittest.TestCase):
    """What every solution must obey."""

    def balance(self, network: Network, found: Solution) -> None:
        """Mass at every node, energy along every pipe."""
        for node, demand in network.demands.items():
            into = sum(found.flows[p.id] for p in network.pipes if p.stop == node)
            out = sum(found.flows[p.id] for p in network.pipes if p.start == node)
            self.assertAlmostEqual(into - out, demand, delta=1e-9)
        self.assertLess(found.residual, 1e-6)

    @settings(max_examples=60, deadline=None)
    @given(st.composite(random_network)(), st.sampled_from(["hazen-williams", "darcy-weisbach"]))
    def test_mass_and_energy_balance(self, network: Network, formula: str) -> None:
        """What enters a node leaves it, and every pipe's loss is the difference of its heads."""
        self.balance(network, solve_network(network, water(288.15), formula))  # type: ignore[arg-type]

    @settings(max_examples=40, deadline=None)
    @given(st.composite(random_network)())
    def test_turning_a_pipe_round_changes_only_a_sign(self, network: Network) -> None:
        """Which end of a pipe was drawn first does not matter."""
        first = network.pipes[0]
        turned = PipeLink(
            id=first.id, start=first.stop, stop=first.start, length=first.length, bore=first.bore, minor=first.minor
        )
        one = solve_network(network, water(288.15))
        two = solve_network(Network(network.heads, network.demands, (turned, *network.pipes[1:])), water(288.15))
        self.assertAlmostEqual(one.flows[first.id], -two.flows[first.id], delta=1e-8)
        for node, head in one.heads.items():
            self.assertAlmostEqual(head, two.heads[node], delta=1e-4)

    @settings(max_examples=40, deadline=None)
    @given(st.composite(random_network)(), st.floats(1.01, 2))
    def test_more_demand_never_raises_a_pressure(self, network: Network, more: float) -> None:
        """In a tree, scaling every demand up lowers or keeps every head."""
        tree = tuple(p for p in network.pipes if p.id.startswith("t"))
        one = solve_network(Network(network.heads, network.demands, tree), water(288.15))
        two = solve_network(
            Network(network.heads, {n: d * more for n, d in network.demands.items()}, tree), water(288.15)
        )
        for node, head in one.heads.items():
            self.assertLessEqual(two.heads[node], head + 1e-7)
