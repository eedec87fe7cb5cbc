"""Who may ask a shared server: the crew's words, guesses, sessions, foreign hosts and pages."""

import argparse
import time
import unittest
from unittest.mock import patch

from hydrarch.api.guard import Settings
from hydrarch.cli import Refused, share_words
from tests.api.client import WithClient


class Guarded(WithClient):
    """Who may ask at all."""

    settings = Settings(hosts=("testserver",), passphrase="blue gate", requests_per_minute=60)

    def test_passphrase(self) -> None:
        """A shared server wants the crew's words once, and no others."""
        self.refused(self.client.get("/api/jobs"), 401, "session", "passphrase")
        self.refused(self.client.post("/api/session", json={"passphrase": "red gate"}), 401, "passphrase", "not the crew's")
        self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 204)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)

    def test_guessing_is_slowed(self) -> None:
        """After a handful of wrong words even the right ones wait, and it is said so and for how long; they are right again then. The right ones cost no guess."""
        for _ in range(9):
            self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 204)
        codes = [self.client.post("/api/session", json={"passphrase": "guess"}).status_code for _ in range(7)]
        self.assertEqual(codes, [401] * 6 + [429])
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"})
        self.refused(answer, 429, "guesses", "may be tried again, the right one too")
        self.assertRegex(answer.json()["detail"], r"in \d+ s")
        for seen in self.client.app._wrong.values():  # type: ignore[attr-defined]
            for n, at in enumerate(seen):
                seen[n] = at - 61  # a minute goes by
        self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 204)

    def test_words_that_are_no_passphrase(self) -> None:
        """None at all, or a few letters, keep the server from being shared; from the environment no list of processes shows them."""
        for words, from_it, says in (
            (None, "", "HYDRARCH_PASSPHRASE"),
            ("gate", "", "at least 8 letters"),
            (None, "short", "at least 8 letters"),
        ):
            with (
                self.subTest(words=words, from_it=from_it),
                patch.dict("os.environ", {"HYDRARCH_PASSPHRASE": from_it}),
                self.assertRaisesRegex(Refused, says),
            ):
                share_words(argparse.Namespace(passphrase=words))
        with patch.dict("os.environ", {"HYDRARCH_PASSPHRASE": "blue gate"}):
            self.assertEqual(share_words(argparse.Namespace(passphrase=None)), "blue gate")

    def test_a_session_ends(self) -> None:
        """After a fortnight the words are asked again."""
        self.client.post("/api/session", json={"passphrase": "blue gate"})
        sessions = self.client.app.sessions  # type: ignore[attr-defined]
        (token,) = sessions
        self.assertAlmostEqual(sessions[token] - time.monotonic(), 14 * 86400, delta=60)
        sessions[token] = time.monotonic() - 1
        self.refused(self.client.get("/api/jobs"), 401, "session", "passphrase")

    def test_foreign_hosts_and_pages(self) -> None:
        """A name the server does not answer to, and a change sent from a foreign page, are refused."""
        self.refused(self.client.get("/api/jobs", headers={"Host": "evil.example"}), 400, "host", "does not answer")
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"}, headers={"Origin": "http://evil.example"})
        self.refused(answer, 403, "origin", "may not change jobs here")

    def test_policy_and_rate(self) -> None:
        """Every answer carries a strict policy; too many requests in a minute are turned away."""
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"})
        self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
        codes = {self.client.get("/api/jobs").status_code for _ in range(70)}
        self.assertEqual(codes, {200, 429})


if __name__ == "__main__":
    unittest.main()
