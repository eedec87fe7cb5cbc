"""The list for the aisle: what is wanted, what is in the basket, what today's work lacks, what else would do, what is
laid out.
"""

import unittest
from collections import Counter
from typing import Any

from hydrarch.core.catalogue.fittings import fitting, fittings
from hydrarch.core.report.shopping import mistaken
from hydrarch.demo import DEMO_ID
from tests.api.client import WithClient, event


class Shop(WithClient):
    """At the API."""

    def shop(self) -> dict[str, Any]:
        """The list as it is now."""
        found: dict[str, Any] = self.client.get(f"/api/jobs/{DEMO_ID}/shop").json()
        return found

    def say(self, *told: dict[str, Any]) -> None:
        """Say events that are all kept."""
        answer = self.client.post(f"/api/jobs/{DEMO_ID}/events", json=list(told)).json()
        self.assertEqual([e["kept"] for e in answer["events"]], [True] * len(told), answer)

    def test_it_is_the_parts_list(self) -> None:
        """Every line of the bill that is bought is on it once, with what is spare and without what is in stock; nothing
        else.
        """
        bill = self.stage("join")["bill"]
        wanted = Counter[str]()
        for row in bill:
            if row["group"] in ("fitting", "added") and fitting(row["item"]).material == "pipe":
                continue
            wanted[row["item"]] += row["count"] - row["have"] + row["spare"]
        self.assertEqual(
            {p["item"]: p["count"] for p in self.shop()["parts"]}, {k: v for k, v in wanted.items() if v > 0}
        )

    def test_the_basket(self) -> None:
        """What is put in the basket is there, the last word wins, and today's lack shrinks by it; the same sent twice
        counts once.
        """
        today = {p["item"]: p["today"] for p in self.shop()["parts"] if p["today"]}
        self.assertTrue(today)
        item, lack = next(iter(today.items()))
        before = self.shop()["says"]
        self.say(event("got", of=item, count=99))
        got = event("got", of=item, count=lack + 1)
        self.say(got)
        self.say(got)
        part = next(p for p in self.shop()["parts"] if p["item"] == item)
        self.assertEqual(part["got"], lack + 1)
        self.assertNotEqual(self.shop()["says"], before)
        self.say(*(event("got", of=i, count=n) for i, n in today.items()))
        self.assertIn("all that today's work wants is there", self.shop()["says"])

    def test_todays_part_shrinks_with_the_work(self) -> None:
        """What is made wants nothing from the shop; with all joints made, today wants nothing."""
        work = [t["joint"] for t in self.stage("make")["work"]]
        self.say(event("made", joints=work))
        shop = self.shop()
        self.assertEqual([p["item"] for p in shop["parts"] if p["today"]], [])
        self.assertEqual(shop["sets"], [])
        self.assertIn("today's work wants nothing", shop["says"])

    def test_what_is_laid_out(self) -> None:
        """Each assembly that is not made has its set; ticked, it lies there; what no basket holds is named.

        A part is in one set only.
        """
        shop = self.shop()
        parts = Counter[str]()
        for s in shop["sets"]:
            parts.update({name: n for name, n in s["parts"]})
        names = Counter(p["name"] for p in self.stage("join")["parts"])
        self.assertLessEqual(set(parts), set(names))
        self.assertTrue(all(parts[n] <= names[n] for n in parts))
        first = shop["sets"][0]
        self.assertTrue(first["missing"])
        self.say(event("laid_out", of=first["id"], count=1))
        self.assertTrue(self.shop()["sets"][0]["laid"])
        self.say(event("laid_out", of=first["id"], count=0))
        self.assertFalse(self.shop()["sets"][0]["laid"])

    def test_not_to_be_had(self) -> None:
        """No way that is offered holds the part; taken, it is gone from the list, and the job holds together as
        before.
        """
        item = "pvc-tee-1-x-1-x-1_2-thread"
        name = next(p["item"] for p in self.shop()["parts"] if p["name"] == "PVC tee 1 × 1 × 1/2 female thread")
        places = self.client.get(f"/api/jobs/{DEMO_ID}/shop/{name}/instead").json()
        self.assertTrue(places, item)
        nodes = []
        for place in places:
            self.assertTrue(place["ways"])
            for way in place["ways"]:
                self.assertNotIn(name, way["fittings"])
            lacks = [len(w["missing"]) for w in place["ways"]]
            self.assertEqual(lacks, sorted(lacks))
            way = place["ways"][0]
            nodes.append({"point": place["point"], "how": way["how"], "fittings": way["fittings"]})
        job = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        saved = self.client.put(
            f"/api/jobs/{DEMO_ID}/plan", json={"revision": job["revision"], "plan": {**job["plan"], "nodes": nodes}}
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        self.assertNotIn(name, {p["item"] for p in self.shop()["parts"]})
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/shop/nothing/instead"), 404, "unknown", "part on the list")

    def test_what_says_no_number(self) -> None:
        """A tick without its part or its number is refused in words."""
        for told, says in (
            (event("got", count=1), "what it was done to"),
            (event("got", of="x"), "how many"),
            (event("laid_out", of="x"), "how many"),
        ):
            answer = self.client.post(f"/api/jobs/{DEMO_ID}/events", json=[told]).json()["events"][0]
            self.assertFalse(answer["kept"])
            self.assertIn(says, str(answer["problem"]))


class Mistaken(unittest.TestCase):
    """What is taken for what. Common practice."""

    def test_the_usual_ones(self) -> None:
        """45° for 90°, a threaded elbow for a plain one, the other country's thread; never the part itself, nor one of
        another size.
        """
        names = {f.name: f.id for f in fittings().values()}
        looks = {m.name: m.says for m in mistaken(names["PVC elbow 90° 1"], "us")}
        self.assertIn("it turns 45° and not 90°", looks["PVC elbow 45° 1"])
        self.assertIn("PVC elbow 90° 1 socket × 1 female thread", looks)
        self.assertNotIn("PVC elbow 90° 1-1/4", looks)
        threads = {m.name for m in mistaken(names["Threaded elbow 90° 3/4 female"], "metric")}
        self.assertIn("BSP elbow 90° 3/4 female", threads)

    def test_nothing_is_taken_for_itself(self) -> None:
        """Of every part: others of its family, told apart in words with two figures only where they differ."""
        for name in sorted(fittings())[::37]:
            for m in mistaken(name, "metric"):
                self.assertNotEqual(m.name, fitting(name).name)
                if " across and not " in m.says:
                    there, here = m.says.rpartition(", ")[2].split(" across and not ")
                    self.assertNotEqual(there, here)


if __name__ == "__main__":
    unittest.main()
