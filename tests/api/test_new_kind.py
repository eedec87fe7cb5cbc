"""A kind nobody planned for: a module of its own takes it through all seven stages, and no other file of ours
changes.
"""

import json
import time
import uuid
from typing import Any, Literal

from hydrarch.core.base.problems import Stage
from hydrarch.core.components.base import Kind, PortSpec, What, borrowed, field, given_thread
from hydrarch.core.derivation.chain import derive
from hydrarch.core.hydraulics.acting import Acting, acts
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.plan.upgrades import open_plan
from tests.api.client import WithClient
from tests.core.plans import draw, point

STAGES: tuple[Stage, ...] = ("survey", "size", "join", "cut", "make", "prove", "keep")


class Trough(What):
    """A manifold with a screen of its own: it takes water in at one port and lets it out at two, one of them with a
    union nut.
    """

    kind: Literal["trough"] = "trough"
    loss: float = field(30e3, "Loss", "pressure", ge=0, le=1e6)
    at_flow: float = field(0.001, "at flow", "flow", ge=1e-7, le=1)


TROUGH = Kind(
    model=Trough,
    title="Screened manifold",
    letter="Q",
    role="device",
    ports=(
        PortSpec("in", "in", "Inlet", given=given_thread("1"), serves=True),
        PortSpec("left", "out", "Left", given=given_thread("3/4")),
        PortSpec(
            "right", "out", "Right", given=dict.fromkeys(("north-american", "elsewhere", "both"), "buttress:male:1-1/2")
        ),
    ),
    needs="a run at each of its three ports",
    bears=True,
)


@acts.register
def _(what: Trough, point: Point, net: Acting) -> None:
    net.loses(point, "in", fixed=what.loss / net.wet.weight / what.at_flow**2)


def plan() -> Plan:
    """A tank, the made-up thing, and a tap at each of its two outlets."""
    points = [
        point("K", 0, 0, "tank", water_level=30),
        point("Q", 12, 0, "trough"),
        point("T", 30, 0, "tap", height=0.0),
        point("U", 12, 20, "tap", height=0.0),
    ]
    return draw(points, [("K", "Q:in"), ("Q:left", "T"), ("Q:right", "U")], conditions={"market": "north-american"})


class MadeUp(WithClient):
    """From the palette to the hand-over."""

    def setUp(self) -> None:
        """Know the kind for as long as the test lasts."""
        super().setUp()
        known = borrowed(TROUGH)
        known.__enter__()
        self.addCleanup(known.__exit__, None, None, None)

    def answer(self, job: str, stage: str) -> dict[str, Any]:
        """What a stage shows, with nothing wrong."""
        found = self.stage(stage, job)
        self.assertEqual([p["says"] for p in found["problems"] if p["severity"] == "stop"], [])
        return found

    def test_through_all_stages(self) -> None:
        """It is offered with its fields and ports, flows with its loss, is joined at three ends, made, proved and
        handed over.
        """
        offered = {k["kind"]: k for k in self.client.get("/api/reference").json()["kinds"]}["trough"]
        self.assertEqual((offered["title"], offered["letter"]), ("Screened manifold", "Q"))
        self.assertEqual([f["name"] for f in offered["fields"]], ["loss", "at_flow"])
        self.assertEqual(
            [(p["name"], p["way"]) for p in offered["ports"]], [("in", "in"), ("left", "out"), ("right", "out")]
        )

        started = self.client.post("/api/jobs", json={"name": "Made up", "units": "us"}).json()
        job = started["id"]
        saved = self.client.put(
            f"/api/jobs/{job}/plan", json={"revision": 1, "plan": json.loads(plan().model_dump_json())}
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        answers = {stage: self.answer(job, stage) for stage in STAGES}

        lines = answers["survey"]["lines"]
        self.assertEqual([s["sort"] for s in lines["systems"]], ["supply"])
        flow = next(iter(answers["size"]["sizes"]["flows"].values()))
        into = abs(flow["runs"]["R1"]["flow"])
        self.assertAlmostEqual(into, sum(abs(flow["runs"][r]["flow"]) for r in ("R2", "R3")), places=9)
        bare = derive(plan().model_copy(update={"points": tuple(self.without_loss(p) for p in plan().points)}))
        lost = (next(iter(bare.sizes.flows.values())).points["T"].pressure - flow["points"]["T"]["pressure"]) / 30e3
        self.assertAlmostEqual(lost, (into / 0.001) ** 2, delta=0.02)

        ends = {j["b"]["end"] for j in answers["join"]["joints"] if j["b"]["what"].endswith("Q")}
        self.assertEqual(ends, {"npt:female:1", "npt:female:3/4", "buttress:male:1-1/2"})
        self.assertIn("union", {j["method"] for j in answers["join"]["joints"] if j["point"] == "Q"})
        self.assertEqual({r for p in answers["cut"]["cuts"]["pieces"] for r in p["runs"]}, {"R1", "R2", "R3"})
        self.assertEqual(len(answers["make"]["work"]), len(answers["join"]["joints"]))
        self.assertEqual({r for s in answers["prove"]["sections"] for r in s["runs"]}, {"R1", "R2", "R3"})

        names = [t["joint"] for t in answers["make"]["work"]]
        made = {"id": str(uuid.uuid4()), "kind": "made", "at": time.time() - 9e5, "by": "Ash", "joints": names}
        told = self.client.post(f"/api/jobs/{job}/events?stage=prove", json=[made]).json()
        self.assertTrue(told["events"][0]["kept"])
        self.assertTrue(all(s["pressurise"]["open"] for s in told["standing"]["readiness"]["sections"].values()))
        sheet = self.client.get(f"/api/jobs/{job}/export/sheet").text
        self.assertIn("Q", sheet)
        again = self.client.post("/api/import", content=self.client.get(f"/api/jobs/{job}/export/job").content)
        self.assertEqual(again.status_code, 201, again.text)
        self.assertEqual(again.json()["plan"]["points"][1]["what"]["kind"], "trough")

    @staticmethod
    def without_loss(p: Point) -> Point:
        """The same point, losing nothing."""
        return p.model_copy(update={"what": Trough(kind="trough", loss=0.0)}) if isinstance(p.what, Trough) else p

    def test_forgotten(self) -> None:
        """A job with a kind that a version does not know opens without that thing, and says so."""
        body = json.loads(plan().model_dump_json())
        body["points"][1]["what"]["kind"] = "trough of another version"
        opened, gone = open_plan(body)
        self.assertEqual([p.id for p in opened.points], ["K", "T", "U"])
        self.assertIn("Q", [x.where for x in gone])


del WithClient
