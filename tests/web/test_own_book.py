"""The crew's own book, in the page: keep a thing, set it down in another job, a file in and out, refusals row
by row.
"""

import json
import unittest
from typing import Any

from playwright.sync_api import expect

from tests.web.base import Browsing

FITTING: dict[str, Any] = {
    "id": "own-slip-coupling",
    "name": "Our slip coupling 1",
    "family": "coupling",
    "material": "pvc",
    "source": "measured on the bench",
    "openings": [
        {"end": "solvent:socket:1", "stop": "30 mm", "direction": 180},
        {"end": "solvent:socket:1", "stop": "30 mm", "direction": 0},
    ],
}


class OwnBook(Browsing):
    """The book's page, and the drawing's own group."""

    def setUp(self) -> None:
        """Begin and end with an empty book."""
        super().setUp()
        self.addCleanup(self.empty)

    def empty(self) -> None:
        """Take every row out."""
        book = self.api("GET", "/book")
        for section, key in (("things", "name"), ("fittings", "id"), ("pipes", "id")):
            for row in book[section]:
                self.api("DELETE", f"/book/{section}/{row[key]}")

    def test_kept_from_one_job_and_set_down_in_another(self) -> None:
        """A tap with its numbers is kept under a name, stands in the palette of every job, and is set down as
        it was.
        """
        job = self.fresh_demo()
        self.open(job, "survey")
        self.page.get_by_role("table", name="Points").get_by_role("button", name="Tap 1").click()
        self.page.get_by_role("button", name="Save to crew parts").click()
        self.page.get_by_label("Name in the book").fill("Yard tap")
        self.page.get_by_role("button", name="Keep", exact=True).click()
        expect(self.page.get_by_text('Yard tap is saved. Place it from "Crew parts".')).to_be_visible()
        kept = self.api("GET", "/book")["things"][0]
        other = self.api("POST", "/jobs", json={"name": "another", "units": "metric"})["id"]
        self.open(other, "survey")
        self.take("Crew parts", "Yard tap")
        self.click_drawing(0, 0)
        self.saved(2)
        set_down = self.api("GET", f"/jobs/{other}")["plan"]["points"][0]
        self.assertEqual((set_down["name"], set_down["what"]), ("Yard tap", kept["what"]))

    def test_file_in_and_out(self) -> None:
        """A file is taken, its rows are shown, the file that goes out reads back the same, and a row is taken out."""
        self.page.goto("/book")
        book = {"format": "hydrarch/book/1", "fittings": [FITTING]}
        file = self.page.get_by_label("Book file")
        file.set_input_files({"name": "book.json", "mimeType": "application/json", "buffer": json.dumps(book).encode()})
        expect(self.page.get_by_role("table", name="Fittings")).to_contain_text("Our slip coupling 1")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Have the book as a file").click()
        out = json.loads(download.value.path().read_text("utf-8"))
        self.assertEqual([f["id"] for f in out["fittings"]], ["own-slip-coupling"])
        self.page.get_by_role("button", name="Take out Our slip coupling 1").click()
        expect(self.page.get_by_text("They come from a file.")).to_be_visible()
        self.assertEqual(self.api("GET", "/book")["fittings"], [])

    def test_a_wrong_row_is_told(self) -> None:
        """A file with a wrong row is refused whole, and the row is named."""
        self.page.goto("/book")
        book = {"format": "hydrarch/book/1", "fittings": [{**FITTING, "family": "gizmo"}]}
        file = self.page.get_by_label("Book file")
        file.set_input_files({"name": "book.json", "mimeType": "application/json", "buffer": json.dumps(book).encode()})
        expect(self.page.get_by_role("alert")).to_contain_text("own-slip-coupling")
        expect(self.page.get_by_role("alert")).to_contain_text("is no family of fittings")
        self.assertEqual(self.api("GET", "/book")["fittings"], [])


if __name__ == "__main__":
    unittest.main()
