"""Who may ask a shared server: the crew's words, guesses, sessions, foreign hosts and pages."""

import argparse
import re
import time
import unittest
from pathlib import Path
from unittest.mock import patch

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.api.passphrases import changed_since
from hydrarch.api.sessions import Sessions
from hydrarch.cli import Refused, share_words
from hydrarch.formats.trusting import Trust
from hydrarch.store.crew import sessions
from hydrarch.store.forgotten import forgotten
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
            ("aaaaaaaa", "", "hardly any different letters"),
            ("password123", "", "guessed first"),
            ("Irrigation", "", "guessed first"),
            ("abcdefghij", "", "follow one another"),
            ("barn5barn5", "", "the same twice"),
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


class Custody(WithClient):
    """What the owner may do, what is kept of it, and what ends a session."""

    settings = Settings(hosts=("testserver",), passphrase="blue gate", owner="red barn door")

    def join(self, passphrase: str, name: str) -> TestClient:
        """A device of its own that was let in."""
        other = TestClient(self.client.app, headers={"User-Agent": "Mobile"})
        self.assertEqual(other.post("/api/session", json={"passphrase": passphrase, "name": name}).status_code, 204)
        return other

    def test_only_the_owner_deletes_for_good(self) -> None:
        """The crew may put a job among the deleted; for good it goes by the owner, its name typed, and comes
        back whole.
        """
        owner, crew = self.join("red barn door", "Juniper"), self.join("blue gate", "Ash")
        self.assertTrue(owner.get("/api/crew").json()["owner"])
        self.assertFalse(crew.get("/api/crew").json()["owner"])
        job = crew.post("/api/jobs", json={"name": "Lower yard"}).json()["id"]
        self.assertEqual(crew.put(f"/api/jobs/{job}/shelf", json={"shelf": "deleted"}).status_code, 200)
        self.refused(crew.delete(f"/api/jobs/{job}", params={"name": "Lower yard"}), 403, "owner", "owner's passphrase")
        self.refused(owner.delete(f"/api/jobs/{job}"), 409, "name", "type its name: Lower yard")
        plan = owner.get(f"/api/jobs/{job}").json()["plan"]
        self.assertEqual(owner.delete(f"/api/jobs/{job}", params={"name": "Lower yard"}).status_code, 204)
        kept = owner.get("/api/deleted").json()
        self.assertEqual([(k["name"], k["by"]) for k in kept], [("Lower yard", "Juniper")])
        self.refused(crew.post(f"/api/deleted/{kept[0]['id']}/back"), 403, "owner", "")
        back = owner.post(f"/api/deleted/{kept[0]['id']}/back")
        self.assertEqual((back.status_code, back.json()["plan"]), (201, plan))
        self.assertEqual(owner.get("/api/deleted").json(), [])
        acts = [(a["what"], a["who"]) for a in owner.get("/api/audit").json()]
        self.assertLessEqual(
            {("joined", "Juniper"), ("deleted", "Ash"), ("deleted for good", "Juniper"), ("restored", "Juniper")},
            {*acts},
        )

    def test_it_is_gone_after_a_month(self) -> None:
        """Thirty days, and not a day more."""
        owner = self.join("red barn door", "Juniper")
        job = owner.post("/api/jobs", json={"name": "Old yard"}).json()["id"]
        owner.delete(f"/api/jobs/{job}", params={"name": "Old yard"})
        store = self.store
        self.assertEqual([f.name for f in forgotten(store, time.time() + 29 * 86400) if f.job == job], ["Old yard"])
        self.assertEqual([f for f in forgotten(store, time.time() + 31 * 86400) if f.job == job], [])

    def test_the_owner_ends_sessions(self) -> None:
        """The crew end their own alone."""
        owner, crew = self.join("red barn door", "Juniper"), self.join("blue gate", "Ash")
        mine = {s["member"]: s["id"] for s in owner.get("/api/sessions").json()}
        self.refused(crew.delete(f"/api/sessions/{mine['Juniper']}"), 403, "owner", "the owner ends")
        self.assertEqual(owner.delete(f"/api/sessions/{mine['Ash']}").status_code, 204)
        self.refused(crew.get("/api/jobs"), 401, "session", "passphrase")

    def test_idle_sessions_end(self) -> None:
        """Three days without a word, though its fortnight is not over; one that asks goes on."""
        store = self.store
        now = [1.7e9]
        kept = Sessions(store, lambda: now[0])
        idle, busy = kept.open("Ash", "phone"), kept.open("Rowan", "phone")
        for _ in range(4):
            now[0] += 86400.0
            self.assertIsNotNone(kept.find(busy))
        self.assertIsNone(kept.find(idle))
        again = Sessions(store, lambda: now[0])  # the server was started anew
        self.assertIsNotNone(again.find(busy))
        self.assertIsNone(again.find(idle))

    def test_another_passphrase_ends_all(self) -> None:
        """The same again ends none; of the passphrase itself only a salted hash is kept."""
        store = self.store
        self.join("blue gate", "Ash")
        self.assertFalse(changed_since(store, "blue gate"))
        self.assertFalse(changed_since(store, "blue gate"))
        self.assertTrue(sessions(store, time.time()))
        self.assertTrue(changed_since(store, "green gate"))
        self.assertEqual(sessions(store, time.time()), ())
        row = store.read().execute("SELECT salt, hash FROM passphrase").fetchone()
        self.assertNotIn(b"green", bytes(row["hash"]) + bytes(row["salt"]))

    def test_answers_are_kept_by_nobody(self) -> None:
        """No-store on the API, and what a page may use of the device."""
        crew = self.join("blue gate", "Ash")
        found = crew.get("/api/jobs").headers
        self.assertEqual(found["Cache-Control"], "no-store")
        self.assertEqual(found["X-Answered-By"], "hydrarch")
        self.assertNotIn("unsafe", found["Content-Security-Policy"])
        self.assertIn("geolocation=()", found["Permissions-Policy"])


class Secured(WithClient):
    """A server that has a certificate, asked in the plain."""

    settings = Settings(
        hosts=("testserver",),
        passphrase="blue gate",
        trust=Trust("http://testserver", "https://testserver:8443", Path("none")),
    )

    def test_plain_requests_go_to_the_certificate(self) -> None:
        """Only the page that tells how to trust it is answered; all else is sent on, with its path and query."""
        plain = TestClient(
            self.client.app, base_url="http://testserver", follow_redirects=False, raise_server_exceptions=False
        )
        for path in ("/api/jobs", "/", "/job/thistledown/make?joint=R1"):
            answer = plain.get(path)
            self.assertEqual((answer.status_code, answer.headers["Location"]), (308, f"https://testserver:8443{path}"))
        self.assertEqual(plain.post("/api/session", json={"passphrase": "blue gate"}).status_code, 308)
        self.assertNotEqual(plain.get("/trust/crew.crt").status_code, 308)
        secure = TestClient(self.client.app, base_url="https://testserver", follow_redirects=False)
        answer = secure.get("/api/jobs")
        self.assertEqual(answer.status_code, 401)
        self.assertIn("max-age", answer.headers["Strict-Transport-Security"])


if __name__ == "__main__":
    unittest.main()
