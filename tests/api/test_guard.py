"""Who may ask a shared server: the crew's words, guesses, sessions, foreign hosts and pages."""

import argparse
import re
import time
import unittest
from unittest.mock import patch

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.cli import Refused, share_words
from tests.api.client import WithClient


class Guarded(WithClient):
    """Who may ask at all."""

    settings = Settings(hosts=("testserver",), passphrase="blue gate", requests_per_minute=60)

    def test_passphrase(self) -> None:
        """A shared server wants the crew's words once, and no others."""
        self.refused(self.client.get("/api/jobs"), 401, "session", "passphrase")
        self.refused(
            self.client.post("/api/session", json={"passphrase": "red gate"}), 401, "passphrase", "not the crew's"
        )
        self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 204)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)

    def test_guessing_is_slowed(self) -> None:
        """After a handful of wrong words even the right ones wait, and it is said so and for how long; they are right
        again then. The right ones cost no guess.
        """
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
        """None at all, or a few letters, keep the server from being shared; from the environment no list of processes
        shows them.
        """
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
        (found,) = sessions.all()
        self.assertAlmostEqual(found.ends - time.time(), 14 * 86400, delta=60)
        sessions.clock = lambda: time.time() + 14 * 86400 + 1
        self.refused(self.client.get("/api/jobs"), 401, "session", "passphrase")
        self.assertEqual(sessions.all(), ())

    def test_sessions_outlive_a_restart_and_are_ended_from_the_list(self) -> None:
        """A phone stays let in when the server starts anew; a lost one is put out from the list, at once.

        Its token is kept nowhere.
        """
        self.client.post("/api/session", json={"passphrase": "blue gate", "name": " Rowan "})
        token = self.client.cookies["hydrarch"]
        again = TestClient(create_app(self.store, None, self.settings), cookies={"hydrarch": token})
        self.addCleanup(again.close)
        self.assertEqual(again.get("/api/jobs").status_code, 200)
        (mine,) = again.get("/api/sessions").json()
        self.assertEqual((mine["member"], mine["mine"], mine["device"]), ("Rowan", True, "computer"))
        kept = [tuple(r) for r in self.store.read().execute("SELECT * FROM session")]
        self.assertNotIn(token, str(kept))
        self.assertEqual(again.delete(f"/api/sessions/{mine['id']}").status_code, 204)
        self.refused(again.get("/api/jobs"), 401, "session", "passphrase")
        self.client.post("/api/session", json={"passphrase": "blue gate"})
        self.refused(self.client.delete(f"/api/sessions/{mine['id']}"), 404, "not-there", "ended already")

    def test_every_route_wants_a_session(self) -> None:
        """Each path of the document but the one that lets in refuses who has no session, the streams too."""
        asked = 0
        for path, verbs in self.client.app.app.openapi()["paths"].items():  # type: ignore[attr-defined]
            for verb in verbs:
                if path == "/api/session":
                    continue
                self.client.app._seen.clear()  # type: ignore[attr-defined]
                answer = self.client.request(verb, re.sub(r"\{\w+\}", "thistledown", path))
                self.refused(answer, 401, "session", "passphrase")
                asked += 1
        self.assertGreater(asked, 60)

    def test_foreign_hosts_and_pages(self) -> None:
        """A name the server does not answer to, and a change sent from a foreign page, are refused."""
        self.refused(self.client.get("/api/jobs", headers={"Host": "evil.example"}), 400, "host", "does not answer")
        answer = self.client.post(
            "/api/session", json={"passphrase": "blue gate"}, headers={"Origin": "http://evil.example"}
        )
        self.refused(answer, 403, "origin", "may not change jobs here")

    def test_policy_and_rate(self) -> None:
        """Every answer carries a strict policy; too many requests in a minute are turned away."""
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"})
        self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
        codes = {self.client.get("/api/jobs").status_code for _ in range(70)}
        self.assertEqual(codes, {200, 429})


if __name__ == "__main__":
    unittest.main()
