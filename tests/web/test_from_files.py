"""What comes from surveyors and goes out to other people: points of a file, a place on the earth, and as laid."""

import re

from playwright.sync_api import expect

from tests.web.base import Browsing


class AfterTheTrench(Browsing):
    """What stays when it is closed."""

    def test_points_from_a_file_and_as_laid(self) -> None:
        """Points of a file are said back, then set down; hidden joints are measured from them; what is to be done again
        is done by name.
        """
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_text("Points from a file").click()
        table = b"name,east,north\nHouse corner,30,20\nOak,60,22\n"
        page.get_by_label("Points file").set_input_files({"name": "p.csv", "mimeType": "text/csv", "buffer": table})
        expect(page.get_by_text("2 points, 30.00 m by 2.00 m")).to_be_visible()
        page.get_by_role("button", name="Set down all 2").click()
        self.saved(2)
        names = {p["name"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"] if p["what"]["kind"] == "mark"}
        self.assertEqual(names, {"House corner", "Oak"})
        page.get_by_role("link", name="Record").click()
        laid = page.get_by_role("region", name="As laid")
        expect(laid.get_by_text(re.compile("each measured from two of 2 marks"))).to_be_visible()
        expect(laid.get_by_role("button").filter(has_text="from House corner").first).to_be_visible()
        again = page.get_by_text("To be done again")
        again.scroll_into_view_if_needed()
        if not page.get_by_role("button", name="Done", exact=True).first.is_visible():
            again.click()
        page.get_by_role("button", name="Done", exact=True).first.click()
        expect(page.get_by_text(re.compile("; crew did it"))).to_be_visible()
        broken = b"name,east,north\nOak,here,22\n"
        page.get_by_role("link", name="Survey").click()
        page.get_by_text("Points from a file").click()
        page.get_by_label("Points file").set_input_files({"name": "p.csv", "mimeType": "text/csv", "buffer": broken})
        expect(page.get_by_text(re.compile("line 2: 'here' is no number"))).to_be_visible()

    def test_a_table_whose_columns_nobody_names(self) -> None:
        """A file in another set of letters, with no heads: each column is shown with what it begins with, a person says
        what it is, and the points are set down as they said.
        """
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_text("Points from a file").click()
        table = "Büche;12,5;100,25;211,5\nHöhle;14,0;101,0;212,0\n".encode("cp1252")
        page.get_by_label("Points file").set_input_files({"name": "p.txt", "mimeType": "text/plain", "buffer": table})
        expect(page.get_by_text("Say which column is what.")).to_be_visible()
        expect(page.get_by_role("button", name="Set down all 0")).to_be_disabled()
        for number, used in enumerate(("name", "north", "east", "level"), 1):
            page.get_by_label(f"Column {number} is").select_option(used)
            expect(page.get_by_label(f"Column {number} is")).to_have_value(used)
        expect(page.get_by_text(re.compile("^2 points, 0.75 m by 1.50 m, levels from 211.50 m"))).to_be_visible()
        page.get_by_role("button", name="Set down all 2").click()
        self.saved(2)
        points = {p["name"]: p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        self.assertEqual((points["Büche"]["x"], points["Büche"]["y"], points["Büche"]["ground"]), (100.25, 12.5, 211.5))

    def test_where_on_earth(self) -> None:
        """A spot of the drawing is said to lie somewhere; points in degrees are set down by that, and the map that goes
        out lies there.
        """
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_text("Where on earth it lies").click()
        page.get_by_label("The place of").select_option(label="Tap 1")
        page.get_by_label("Latitude and longitude").fill("nowhere")
        page.get_by_role("button", name="Say it lies there").click()
        expect(page.get_by_text(re.compile("'nowhere' is no place"))).to_be_visible()
        page.get_by_label("Latitude and longitude").fill("52°00'00\" N, 4°18'00\" E")
        page.get_by_role("button", name="Say it lies there").click()
        self.saved(2)
        tap = next(p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"] if p["name"] == "Tap 1")
        page.get_by_text("Points from a file").click()
        table = b"name,lat,lon\nGate,52.0,4.3\nOak,52.0001,4.3\n"
        page.get_by_label("Points file").set_input_files({"name": "p.csv", "mimeType": "text/csv", "buffer": table})
        expect(page.get_by_text(re.compile("set down by the place on the earth of the drawing"))).to_be_visible()
        page.get_by_role("button", name="Set down all 2").click()
        self.saved(3)
        points = {p["name"]: p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        self.assertAlmostEqual(points["Gate"]["x"], tap["x"], delta=1e-3)
        self.assertAlmostEqual(points["Gate"]["y"], tap["y"], delta=1e-3)
        self.assertAlmostEqual(points["Oak"]["y"] - tap["y"], 11.126, delta=0.01)
        told = self.api("GET", f"/jobs/{job}/export/geojson")
        lon, lat, _ = next(f for f in told["features"] if f["id"] == tap["id"])["geometry"]["coordinates"]
        self.assertAlmostEqual(lat, 52.0, places=7)
        self.assertAlmostEqual(lon, 4.3, places=7)
        page.get_by_role("button", name="Take it back").click()
        self.saved(4)
        self.assertIsNone(self.api("GET", f"/jobs/{job}")["plan"]["tie"])
        page.get_by_role("button", name="Undo", exact=True).click()
        self.saved(5)
        self.assertEqual(self.api("GET", f"/jobs/{job}/export/geojson")["frame"], "earth")
