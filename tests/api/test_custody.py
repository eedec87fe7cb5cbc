"""What an answer of the server means for what a page still holds: whether it is about the item that was sent, or the
item must wait.
"""

import re
from pathlib import Path

from tests.api.client import WithClient

TOP = Path(__file__).resolve().parents[2]
WAITS = {
    "fault",
    "guesses",
    "half-sent",
    "host",
    "name",
    "owner",
    "http",
    "in-use",
    "row-changed",
    "newer",
    "nothing-to-practise",
    "origin",
    "passphrase",
    "quantity",
    "rate",
    "session",
    "store",
    "unreadable",
}
"""Kinds of problem documents that say nothing against the item that was sent."""


class Custody(WithClient):
    """The page drops or shelves an item by the kind of the problem document alone."""

    def test_every_kind_is_known_to_the_page(self) -> None:
        """Each kind the API can answer either refuses the item in the page's list, settles it, or makes it wait."""
        code = "\n".join(f.read_text() for f in sorted((TOP / "hydrarch/api").glob("*.py")))
        kinds = set(re.findall(r"\bproblem\(\s*\"([a-z-]+)\"", code))
        page = (TOP / "web/src/api/custody.ts").read_text()
        listed = re.search(r"REFUSALS[^[]*\[(.*?)\]", page, re.S)
        assert listed is not None
        refusals = set(re.findall(r"\"([a-z-]+)\"", listed.group(1)))
        self.assertEqual(kinds - {"clash", "not-there"} - refusals, WAITS & kinds)
        self.assertLessEqual(refusals, kinds)

    def test_a_cut_body_is_no_refusal(self) -> None:
        """JSON that was cut on its way is answered as unreadable: nothing is known of what was said in it."""
        for body in (b'[{"id": "0b6a', b"[", b"\xff"):
            with self.subTest(body):
                answer = self.client.post(
                    "/api/jobs/thistledown/events", content=body, headers={"content-type": "application/json"}
                )
                self.assertEqual(answer.status_code, 400)
                self.assertIn(answer.json()["type"], ("/problems/unreadable", "/problems/http"))

    def test_a_body_of_comments_is_read_in_no_time(self) -> None:
        """A file that begins like the comments of a DXF and is none is refused; reading it once is enough to know."""
        for body in (b"999 \n" * 40 + b"x", b"999\n\n" * 400_000, b"999\n"):
            with self.subTest(len(body)):
                answer = self.client.post("/api/pictures", content=body)
                self.assertEqual((answer.status_code, answer.json()["type"]), (422, "/problems/bad-file"))
