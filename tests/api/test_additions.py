"""An export and a part of an answer nobody planned for: a row of the registry, and a function."""

from unittest.mock import patch

from pydantic import TypeAdapter

from hydrarch.api.stage import stage_shape
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.report.shown import PARTS, part
from hydrarch.demo import DEMO_ID
from hydrarch.formats.exports import EXPORTS, Export
from tests.api.client import WithClient


class MadeUpExport(WithClient):
    """From the list that the page shows to the file."""

    def test_an_export(self) -> None:
        """It is offered, written from the job, and sent under its name and type."""
        row = Export("count", "How many points", "count.txt", "text/plain", lambda s: str(len(s.plan.points)))
        job = DEMO_ID
        with patch.dict(EXPORTS, {"count": row}):
            offered = {e["name"]: e for e in self.client.get("/api/reference").json()["exports"]}
            self.assertEqual(offered["count"]["title"], "How many points")
            answer = self.client.get(f"/api/jobs/{job}/export/count")
        self.assertEqual(answer.status_code, 200, answer.text)
        points = self.client.get(f"/api/jobs/{job}").json()["plan"]["points"]
        self.assertEqual(answer.text, str(len(points)))
        self.assertTrue(answer.headers["content-type"].startswith("text/plain"))
        self.assertIn("count.txt", answer.headers["content-disposition"])


class MadeUpPart(WithClient):
    """From a function to the answers of the stages it names, and to their shape."""

    def test_a_part(self) -> None:
        """Declared once, it is sent with the stage that shows it and with no other, and the document tells its shape."""
        with patch.dict(PARTS):

            @part("join")
            def ends_of_pipe(d: Derivation) -> dict[str, int]:
                """How many runs end at each point."""
                return {p.id: sum(p.id in (r.a.point, r.b.point) for r in d.plan.runs) for p in d.plan.points}

            shown = {stage: self.client.get(f"/api/jobs/{DEMO_ID}/stages/{stage}").json() for stage in ("join", "make")}
            shape = TypeAdapter(stage_shape.__wrapped__()).json_schema()["properties"]
        plan = self.client.get(f"/api/jobs/{DEMO_ID}").json()["plan"]
        self.assertEqual(sum(shown["join"]["ends_of_pipe"].values()), 2 * len(plan["runs"]))
        self.assertNotIn("ends_of_pipe", shown["make"])
        self.assertEqual(shape["ends_of_pipe"]["anyOf"][0]["additionalProperties"], {"type": "integer"})
        self.assertNotIn("ends_of_pipe", self.client.get(f"/api/jobs/{DEMO_ID}/stages/join").json())
