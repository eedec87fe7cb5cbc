"""Zones, the leak walk, and the gauge that is watched."""

import json
import time
import unittest
from typing import Any

from hydrarch.demo import DEMO_ID, HERBS_ID
from hydrarch.devices.controller import SimulatedController
from tests.api.client import WithClient, event


class Clocked(unittest.TestCase):
    """The simulated controller."""

    def test_one_at_a_time_and_by_itself(self) -> None:
        """A zone shuts another, and shuts by itself when its time is over."""
        now = [100.0]
        controller = SimulatedController(lambda: now[0])
        self.assertIsNone(controller.running())
        controller.run("meadow", 60.0)
        second = controller.run("taps", 30.0)
        self.assertEqual(controller.running(), second)
        now[0] = 129.9
        self.assertEqual(controller.running(), second)
        now[0] = 130.0
        self.assertIsNone(controller.running())
        controller.run("meadow", 60.0)
        controller.stop()
        self.assertIsNone(controller.running())


class Zones(WithClient):
    """Running a zone and walking it."""

    def zone(self, name: str, job: str = HERBS_ID) -> dict[str, Any]:
        """One zone as it is now."""
        return next(
            z for z in self.client.get(f"/api/jobs/{job}/standing?stage=prove").json()["zones"] if z["id"] == name
        )

    def run_zone(self, **more: Any) -> Any:
        """Ask for the terraces."""
        return self.client.post(f"/api/jobs/{HERBS_ID}/zones/both/run", json={"by": "Ash", "seconds": 300.0, **more})

    def test_not_before_it_may_take_pressure(self) -> None:
        """A zone with joints not made does not run; with a reason it does, and the reason is kept with its sections."""
        self.refused(self.run_zone(), 409, "gate", "not made yet")
        self.assertIsNone(self.zone("both")["until"])
        zones = self.run_zone(override="only the tap's branch is open").json()["zones"]
        on = [z for z in zones if z["until"]]
        self.assertEqual([z["id"] for z in on], ["both"])
        self.assertAlmostEqual(on[0]["until"] - on[0]["since"], 300.0)
        kept = self.client.get(f"/api/jobs/{HERBS_ID}/standing").json()["readiness"]["sections"].values()
        self.assertTrue(all("only the tap's branch is open" in s["overrides"] for s in kept))
        self.assertFalse(any(z["until"] for z in self.client.post(f"/api/jobs/{HERBS_ID}/zones/stop").json()["zones"]))

    def test_made_and_cured_it_runs(self) -> None:
        """With every joint made long ago the zone runs without a reason, who ran it is kept, and a new plan can still
        be saved.
        """
        joints = [j["id"] for j in self.stage("make", HERBS_ID)["joints"]]
        made = {**event("made", joints=joints), "at": time.time() - 20 * 86400}
        self.client.post(f"/api/jobs/{HERBS_ID}/events", json=[made]).raise_for_status()
        self.assertTrue(self.zone("both")["gate"]["open"])
        self.run_zone().raise_for_status()
        kept = self.client.get(f"/api/jobs/{HERBS_ID}/export/job").json()["events"]
        self.assertEqual(
            {(e["by"], e["note"]) for e in kept if e["kind"] == "ran"}, {("Ash", "Both terraces and the tap")}
        )
        again = self.client.post(
            "/api/import", content=json.dumps(self.client.get(f"/api/jobs/{HERBS_ID}/export/job").json())
        )
        self.assertEqual(again.status_code, 201)

    def test_an_unknown_zone(self) -> None:
        """A zone that is not there is reported, and a wrong time is refused."""
        self.refused(
            self.client.post(f"/api/jobs/{HERBS_ID}/zones/moon/run", json={"by": "Ash"}), 404, "unknown", "moon"
        )
        self.refused(self.run_zone(seconds=1.0), 422, "invalid", "seconds")

    def test_the_walk_goes_away_from_the_source(self) -> None:
        """What the zone's water passes or stands at is on its walk, nearest first, and nothing behind a valve that it
        keeps shut; one seen dry is marked, until it is made again.
        """
        thyme, both = self.zone("thyme"), self.zone("both")
        for walk in (thyme["stops"], both["stops"]):
            self.assertEqual([s["along"] for s in walk], sorted(s["along"] for s in walk))
        self.assertEqual(
            {s["joint"] for s in thyme["stops"]}, {s["joint"] for s in both["stops"]}, "no valve parts the two"
        )
        taps, meadow = self.zone("taps", DEMO_ID), self.zone("meadow", DEMO_ID)
        self.assertLess({s["joint"] for s in taps["stops"]}, {s["joint"] for s in meadow["stops"]})
        at = {j["id"]: j["point"] for j in self.stage("make", DEMO_ID)["joints"]}
        self.assertNotIn("S1", {at[s["joint"]] for s in taps["stops"]})
        joint = thyme["stops"][0]["joint"]
        path = f"/api/jobs/{HERBS_ID}/events"
        seen = []
        for kind in ("looked", "made", "looked", "undone"):
            why = "water is on" if kind == "looked" else ""
            self.client.post(path, json=[event(kind, joints=[joint], override=why)]).raise_for_status()
            seen.append(self.zone("thyme")["stops"][0]["looked"] is not None)
        self.assertEqual(seen, [False, False, True, False])

    def test_buried_joints_are_not_on_it(self) -> None:
        """What is buried cannot be felt."""
        house = self.stage("prove")["sections"][0]
        before = {s["joint"] for s in self.zone("taps", DEMO_ID)["stops"]}
        self.assertTrue(before & set(house["joints"]))
        self.client.post(f"/api/jobs/{DEMO_ID}/events", json=[event("buried", section=house["id"])]).raise_for_status()
        after = {s["joint"] for s in self.zone("taps", DEMO_ID)["stops"]}
        self.assertFalse(after & set(house["joints"]))


class Watched(WithClient):
    """The simulated gauge, reading by reading."""

    def test_the_same_readings_one_by_one(self) -> None:
        """What is watched is what the log has, in order, and then it says that it is done."""
        section = self.stage("prove")["sections"][0]["id"]
        path = f"/api/jobs/{DEMO_ID}/sections/{section}/gauge"
        log = self.client.get(f"{path}?leak=1e-7&seed=4").json()
        text = self.client.get(f"{path}/live?leak=1e-7&seed=4&pace=100000").text
        events = [dict(line.split(": ", 1) for line in e.split("\n")) for e in text.split("\n\n") if e]
        self.assertEqual([json.loads(e["data"]) for e in events if e["event"] == "reading"], log)
        self.assertEqual(events[-1]["event"], "done")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/sections/nowhere/gauge/live"), 404, "unknown", "nowhere")
