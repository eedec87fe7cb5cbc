"""Readings and what would explain them, through the API."""

from hydrarch.demo import GATE_ID, MEADOW_ID
from tests.api.client import WithClient


class FaultFound(WithClient):
    """Readings are events; the answer ranks what may be wrong."""

    def test_the_meadow(self) -> None:
        """Two readings of the demo: the north valve first, and where to read next."""
        answer = self.client.get(f"/api/jobs/{MEADOW_ID}/fault").json()
        self.assertEqual(answer["scenario"], "heads")
        found = answer["found"]
        self.assertEqual(len(found["readings"]), 2)
        self.assertEqual(found["explanations"][0]["kinds"], ["valve partly shut"])
        self.assertIsNotNone(found["next"])
        self.assertEqual({r["id"] for r in found["readings"]}, set(answer["by"]))

    def test_all_shut(self) -> None:
        """With every outlet shut nothing was read; a scenario that is not there is refused in words."""
        answer = self.client.get(f"/api/jobs/{MEADOW_ID}/fault?scenario=shut").json()
        self.assertEqual((answer["scenario"], answer["found"]["readings"]), ("shut", []))
        gone = self.client.get(f"/api/jobs/{MEADOW_ID}/fault?scenario=nowhere")
        self.assertEqual(gone.status_code, 404)
        self.assertIn("scenario", gone.json()["detail"])

    def test_a_line_with_nothing_open(self) -> None:
        """A job whose outlets are fed through the changeover answers too."""
        self.assertEqual(self.client.get(f"/api/jobs/{GATE_ID}/fault").status_code, 200)
