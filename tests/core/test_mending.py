"""Repairs: every way that is offered goes in, in the window it asks for, between ends as they are."""

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import pipe, series_list
from hydrarch.core.joining.stacks import SLIP, UNIONS
from hydrarch.core.repair.mending import NICK, SOUND, Damage, Mending, mendings

PIPES = [(s.id, p.size) for s in series_list() for p in s.sizes]
TURNED = {"thread", "hose thread"}


def asked(**more: Any) -> Damage:
    """A split in 1-in schedule 40 that lies in the ground, but for what is said."""
    return Damage(**{"broke": "split", "series": "pvc40", "size": "1", "long": 0.3, "pressure": 6e5, **more})


def slid(mending: Mending) -> bool:
    """Whether each of its fittings is one body without a stop, or one whose nuts let it slide along a pipe."""
    ways = {mending.first.fittings, mending.last.fittings}
    loose = {"repair compression", "gripping compression", "universal compression", "shielded band"}
    methods = {j.method for w in (mending.first, mending.last) for j in w.joints}
    return all(len(f) == 1 for f in ways) and all(
        fitting(name).family == SLIP or methods <= loose for f in ways for name in f
    )


class Goes(unittest.TestCase):
    """What is offered can be done."""

    @given(
        st.sampled_from(PIPES),
        st.sampled_from(["nick", "split", "burst", "hole", "leaking valve"]),
        st.floats(0, 1.5),
        st.sampled_from(["held", "aside"]),
        st.booleans(),
        st.one_of(st.none(), st.floats(0, 0.6)),
        st.sampled_from(["north-american", "elsewhere", "both"]),
    )
    @settings(max_examples=25, deadline=None)
    def test_every_way_goes_in(
        self, which: tuple[str, str], broke: Any, long: float, ends: Any, wet: bool, bare: float | None, shop: Any
    ) -> None:
        """By insertion: what is cut out is bridged with nothing over; a piece is at least as long as what it goes into;
        held ends take only what slides, and no more bare pipe than there is; no pipe end that lies there is turned
        without a union; wet pipe is neither welded nor fused.
        """
        what = Damage(
            broke=broke,
            series=which[0],
            size=which[1],
            long=long,
            ends=ends,
            wet=wet,
            bare=bare,
            market=shop,
            lies="in the open",
        )
        try:
            found = mendings(what)
        except HydrarchError:
            return
        outside = pipe(*which).outside
        for m in found.ways:
            spread = 2 * max(SOUND, outside) if broke in ("split", "burst") else 0.0
            self.assertGreaterEqual(m.window + 1e-9, long + spread)
            ways = (m.last,) if not m.piece else (m.first, m.last)
            loose = sum(any(fitting(f).family == SLIP for f in w.fittings) for w in ways)
            gaps = [w.length for w in ways] + [loose * (0.0015 if m.piece else NICK)]
            left = m.window - m.piece - sum(gaps)
            self.assertAlmostEqual(left, 0.0, 9, "what is missing is what is bridged, but for saw cuts")
            if ends == "held":
                self.assertTrue(slid(m), m.title)
                self.assertEqual(m.frees, 0.0)
            else:
                outer = {w.joints[0].method for w in (m.last,)} | {m.last.joints[-1].method}
                union = any(fitting(f).family in UNIONS for f in m.last.fittings)
                self.assertTrue(union or slid(m) or not outer & TURNED, m.title)
            if bare is not None and slid(m):
                self.assertLessEqual(m.bare, bare + 1e-9)
            if wet:
                self.assertFalse(
                    {j.method for w in (m.first, m.last) for j in w.joints} & {"solvent weld", "socket fusion"}, m.title
                )
            self.assertEqual(sum(n for _, n in m.buy), sum(len(w.fittings) for w in ways))
            self.assertEqual(m.joints, sum(len(w.joints) for w in ways))
            self.assertTrue(all(method(j.method) for w in ways for j in w.joints))
        if not found.ways:
            self.assertTrue(found.says, "why there is none is said")


class Told(unittest.TestCase):
    """What a crew reads."""

    def test_a_nick_that_cannot_move(self) -> None:
        """One slip coupling on a saw cut, first (common practice); it slides onto two sockets' depth of bare pipe."""
        best = mendings(asked(broke="nick", long=0.004)).ways[0]
        self.assertEqual(best.title, "PVC slip coupling 1, no stop")
        self.assertEqual((best.window, best.piece), (NICK, 0.0))
        depth = fitting("pvc-slip-coupling-1").ports[0].end.engagement
        self.assertAlmostEqual(best.bare, 2 * depth)
        self.assertTrue(any(w.full >= w.fill > 0 for w in best.waits))

    def test_too_little_bare_pipe(self) -> None:
        """Where less is bare than it slides onto, it is not offered; what is shorter, or nothing, is."""
        best = mendings(asked(broke="nick", long=0.004, bare=0.03))
        self.assertEqual(best.ways, ())
        self.assertIn("Nothing slides over", " ".join(best.says))

    def test_a_split_takes_a_piece(self) -> None:
        """A split of 300 mm in pipe 33.4 mm outside: 366.8 mm comes out, and the piece is that less a saw cut."""
        best = mendings(asked()).ways[0]
        self.assertAlmostEqual(best.window, 0.3 + 2 * 0.0334, 4)
        self.assertAlmostEqual(best.window - best.piece, 0.003, 6)
        self.assertEqual(best.buy, (("pvc-slip-coupling-1", 2),))
        self.assertEqual(best.pipe, "PVC 40 1 pipe")

    def test_unknown_pipe_is_asked_about(self) -> None:
        """Nothing is offered for pipe that nobody measured."""
        found = mendings(asked(series=None, size=None))
        self.assertEqual(found.ways, ())
        self.assertIn("Measure round the pipe", found.asks[0])

    def test_what_is_not_sold_here(self) -> None:
        """Class 200 in a metric shop: it is said that it is not sold, and what the piece is in its place."""
        found = mendings(asked(series="pvc-sdr21", size="2", market="elsewhere"))
        self.assertIn("No PVC thin wall SDR 21 (class 200) is sold here", found.says[0])
        self.assertTrue(all("PVC SDR21" not in m.pipe for m in found.ways))
        self.assertTrue(any("Thin wall" in s for s in found.says))

    def test_old_steel(self) -> None:
        """Between held ends a nut that takes its outside; sprung aside, a coupling and a union; the back-up wrench is
        told.
        """
        held = mendings(asked(series="galv40", size="1"))
        self.assertEqual([m.buy for m in held.ways], [(("universal-coupling-27-35", 2),)])
        aside = mendings(asked(series="galv40", size="1", ends="aside"))
        self.assertIn("brass-union-1", dict(aside.ways[0].buy))
        self.assertIn("back-up wrench", " ".join(aside.says))

    def test_a_drain(self) -> None:
        """Two slip couplings on gaskets with a piece of the same pipe; nothing waits."""
        best = mendings(asked(series="sewer-sdr35", size="4", pressure=None)).ways[0]
        self.assertEqual((best.buy, best.waits), ((("gasket-slip-coupling-4", 2),), ()))
        self.assertNotIn("pressure", " ".join(best.steps))
        self.assertIn("Run every fixture above it", " ".join(best.steps))
        self.assertFalse(any("pressure" in a for a in mendings(asked(series="fibre", size="4", pressure=None)).asks))

    def test_in_a_wall(self) -> None:
        """PPR goes on with PPR, only where an end springs aside; joints that must stay in sight are not offered."""
        wall = {"series": "ppr-s2.5", "size": "25", "lies": "in wall", "long": 0.05}
        self.assertEqual(mendings(asked(**wall)).ways, ())
        found = mendings(asked(**wall, ends="aside"))
        self.assertIn("ppr-coupling-25", dict(found.ways[0].buy))
        for m in found.ways:
            self.assertTrue(all(method(j.method).bury for w in (m.first, m.last) for j in w.joints))

    def test_steps_in_order(self) -> None:
        """Dig, let the pressure down, cut short first, look under pressure before it is covered."""
        steps = mendings(asked()).ways[0].steps
        order = [
            next(n for n, s in enumerate(steps) if w in s)
            for w in ("Dig by hand", "pressure down", "short of both", "slowly", "Leave it open")
        ]
        self.assertEqual(order, sorted(order))


if __name__ == "__main__":
    unittest.main()
