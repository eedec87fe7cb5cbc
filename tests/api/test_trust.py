"""The crew's own certificate authority, and the page by which a phone takes its certificate in."""

import os
import re
import signal
import ssl
import stat
import subprocess
import sys
import tempfile
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx2
from cryptography import x509
from cryptography.hazmat.primitives.serialization import load_pem_private_key
from cryptography.x509.verification import PolicyBuilder, Store, VerificationError

from hydrarch.devices import authority
from hydrarch.devices.authority import certified
from hydrarch.formats.trusting import Trust, crew_certificate, fingerprint

ROOT = Path(__file__).resolve().parents[2]


class Authority(unittest.TestCase):
    """Certificates, judged by another library's verifier."""

    def setUp(self) -> None:
        """A folder for them."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "trust"

    def verified(self, address: str) -> None:
        """The server's certificate is good for that address by the authority alone (profile of RFC 5280 as browsers
        take it).
        """
        found = certified(self.folder, address)
        roots = Store([x509.load_pem_x509_certificate(found.authority.read_bytes())])
        leaf = x509.load_pem_x509_certificate(found.certificate.read_bytes())
        name = leaf.extensions.get_extension_for_class(x509.SubjectAlternativeName).value[0]
        PolicyBuilder().store(roots).build_server_verifier(name).verify(leaf, [])

    def test_it_vouches_for_private_addresses(self) -> None:
        """Addresses and names of a crew's own network; each new one has a certificate by the same authority."""
        before = certified(self.folder, "192.168.4.20").authority.read_bytes()
        for address in ("192.168.4.20", "10.1.2.3", "172.20.0.9", "van.local", "127.0.0.1"):
            with self.subTest(address=address):
                self.verified(address)
        self.assertEqual(certified(self.folder, "10.1.2.3").authority.read_bytes(), before)

    def test_it_vouches_for_nothing_else(self) -> None:
        """Other people's addresses are refused in words; and even somebody who has the key makes nothing of it that is
        believed.
        """
        for address in ("203.0.113.7", "example.org", "2001:db8::7", "172.32.0.1"):
            with self.subTest(address=address), self.assertRaisesRegex(ValueError, "private network"):
                certified(self.folder, address)
        found = certified(self.folder, "10.0.0.2")
        forged, key = self.folder / "forged.pem", self.folder / "forged.key"
        name = x509.DNSName("example.org")
        authority._make_certificate(
            found.authority, self.folder / "crew-authority.key", forged, key, name, datetime.now(UTC)
        )
        roots = Store([x509.load_pem_x509_certificate(found.authority.read_bytes())])
        with self.assertRaises(VerificationError):
            PolicyBuilder().store(roots).build_server_verifier(name).verify(
                x509.load_pem_x509_certificate(forged.read_bytes()), []
            )

    def test_it_is_renewed_before_it_runs_out(self) -> None:
        """A certificate is used again while it lasts, made anew a month before its end, and never lasts longer than
        browsers take (398 days).
        """
        now = datetime.now(UTC)
        first = certified(self.folder, "10.0.0.2", now).certificate.read_bytes()
        leaf = x509.load_pem_x509_certificate(first)
        self.assertLessEqual(leaf.not_valid_after_utc - leaf.not_valid_before_utc, timedelta(days=398))
        self.assertEqual(certified(self.folder, "10.0.0.2", now + timedelta(days=300)).certificate.read_bytes(), first)
        self.assertNotEqual(
            certified(self.folder, "10.0.0.2", now + timedelta(days=380)).certificate.read_bytes(), first
        )

    def test_keys_are_the_owners_alone(self) -> None:
        """No key is readable by others, at no moment; each is one that signs."""
        certified(self.folder, "10.0.0.2")
        keys = sorted(self.folder.glob("*.key"))
        self.assertEqual(len(keys), 2)
        for key in keys:
            self.assertEqual(stat.S_IMODE(key.stat().st_mode), 0o600)
            load_pem_private_key(key.read_bytes(), None)


class Served(unittest.TestCase):
    """A shared server as a phone meets it."""

    def test_both_ways_in(self) -> None:
        """By plain HTTP there is the page with the certificate; by HTTPS the server is believed with that, and with
        nothing else. Both stop together.
        """
        with tempfile.TemporaryDirectory() as folder:
            command = [
                sys.executable,
                "-m",
                "hydrarch",
                "serve",
                "--port",
                "0",
                "--data",
                folder,
                "--share",
                "127.0.0.1",
            ]
            (Path(folder) / "hydrarch.sqlite3").touch()
            server = subprocess.Popen(
                command,
                cwd=ROOT,
                stdout=subprocess.PIPE,
                text=True,
                env={**os.environ, "HYDRARCH_PASSPHRASE": "blue garden gate"},
            )
            self.addCleanup(server.kill)
            assert server.stdout is not None
            says = "".join(server.stdout.readline() for _ in range(3))
            plain, secure = re.findall(r"(https?://127\.0\.0\.1:\d+)/ ", says)
            page = httpx2.get(f"{plain}/trust", timeout=60).text
            taken = httpx2.get(f"{plain}/trust/crew.crt", timeout=60)
            self.assertEqual(taken.headers["content-type"], "application/x-x509-ca-cert")
            found = x509.load_der_x509_certificate(taken.content)
            trust = Trust(plain, secure, Path(folder) / "trust" / "crew-authority.pem")
            self.assertEqual(crew_certificate(trust), taken.content)
            for text in (secure, "<svg", fingerprint(trust), "type the crew's passphrase"):
                self.assertIn(text, page)
            self.assertIn(fingerprint(trust), says)
            context = ssl.create_default_context(cadata=taken.content)
            with httpx2.Client(verify=context, base_url=secure, timeout=60) as client:
                self.assertEqual(client.get("/api/jobs").status_code, 401)
                answer = client.post(
                    "/api/session", json={"passphrase": "blue garden gate"}, headers={"Origin": secure}
                )
                self.assertEqual(answer.status_code, 204)
                self.assertIn("secure", answer.headers["set-cookie"].lower())
                self.assertEqual(client.get("/api/jobs").json(), [])
            with self.assertRaises(httpx2.ConnectError):
                httpx2.get(f"{secure}/api/jobs", timeout=60)
            server.terminate()
            self.assertIn(server.wait(15), (0, -signal.SIGTERM))
            server.stdout.close()
            self.assertEqual(found.subject, found.issuer)


if __name__ == "__main__":
    unittest.main()
