"""A question at the bench is in its address: it is kept over a reload, sent to somebody else, and printed."""

import json
import re
import unittest
from urllib.parse import quote

from playwright.sync_api import expect

from tests.web.base import Browsing


class Kept(Browsing):
    """One question after another."""

    def test_over_a_reload(self) -> None:
        """What is typed in a question is there after a reload, and gone where the question is opened anew."""
        page = self.page
        for question, label, typed in (
            ("line", "Length", "77"),
            ("cut", "How far", "2345"),
            ("source", "Gauge at rest", "4.4"),
        ):
            with self.subTest(question=question):
                page.goto(f"/bench/{question}")
                field = page.get_by_label(re.compile(label)).first
                was = field.input_value()
                field.fill(typed)
                field.press("Enter")
                page.wait_for_url(re.compile(r"\?"))
                said = re.compile(
                    rf"^{re.escape(typed)}(\.?0*)$"
                )  # the field writes it with its decimals a moment later
                expect(field).to_have_value(said)
                self.assertIsNone(said.match(was))
                page.reload()
                expect(page.get_by_label(re.compile(label)).first).to_have_value(said)
                page.goto(f"/bench/{question}")
                expect(page.get_by_label(re.compile(label)).first).to_have_value(was)

    def test_sent_to_somebody_else(self) -> None:
        """A link opens the same question in its units and its market on another device."""
        page = self.page
        page.goto("/bench/line")
        page.get_by_role("button", name="Units: metric; switch").click()
        page.get_by_label(re.compile("Length")).first.fill("120 ft")
        page.get_by_label(re.compile("Length")).first.press("Enter")
        page.wait_for_url(re.compile("asked="))
        page.evaluate("() => { navigator.clipboard.writeText = () => Promise.reject() }")
        page.get_by_role("button", name="Copy link").click()
        link = page.get_by_role("status").filter(has_text="Copy it from here:").inner_text().split(": ", 1)[1]
        other = self.other_phone("Ash")
        other.goto(link)
        expect(other.get_by_role("button", name="Units: US; switch")).to_be_visible()
        expect(other.get_by_label(re.compile("Length")).first).to_have_value(
            page.get_by_label(re.compile("Length")).first.input_value()
        )

    def test_what_an_address_says_wrongly(self) -> None:
        """An address that holds no such question opens the question as it begins, and says that it was not read."""
        page = self.page
        for said in ("[]", "{", '{"length": "much"}', json.dumps({"length": None}), "9" * 400):
            page.goto(f"/bench/line?asked={quote(said)}&units=stone&market=moon")
            expect(page.get_by_role("region", name="Sizes")).to_be_visible()
            expect(page.get_by_role("alert").filter(has_text="could not be read")).to_be_visible()
        page.goto("/bench/line")
        expect(page.get_by_role("region", name="Sizes")).to_be_visible()
        expect(page.get_by_role("alert").filter(has_text="could not be read")).to_have_count(0)

    def test_printed(self) -> None:
        """On paper stands what was asked and answered, with the day; the tools of the page do not."""
        page = self.page
        page.goto("/bench/line")
        answer = page.get_by_role("region", name="Sizes")
        expect(answer).to_be_visible()
        page.emulate_media(media="print")
        expect(page.get_by_role("button", name="Copy link")).to_be_hidden()
        expect(page.get_by_text("answered by Hydrarch on")).to_be_visible()
        expect(answer).to_be_visible()
        page.emulate_media(media="screen")


if __name__ == "__main__":
    unittest.main()
