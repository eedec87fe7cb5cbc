"""An export nobody planned for: a row of the registry, and nothing else."""

from unittest.mock import patch

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
