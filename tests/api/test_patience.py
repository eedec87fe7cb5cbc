"""A server over which strangers hold connections open: it goes on serving the crew."""

import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import httpx2

from hydrarch.api.patience import HEAD, MOST_OF_ONE

ROOT = Path(__file__).resolve().parents[2]
HELD = 1_100


class Patience(unittest.TestCase):
    """Served as a crew serves it."""

    def setUp(self) -> None:
        """Start it on a free port."""
        folder = self.enterContext(tempfile.TemporaryDirectory())
        command = [sys.executable, "-m", "hydrarch", "serve", "--port", "0", "--data", folder]
        self.server = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True)
        assert self.server.stdout is not None
        self.port = int(self.server.stdout.readline().split("127.0.0.1:")[1].split("/")[0])
        self.url = f"http://127.0.0.1:{self.port}/api/jobs"

    def tearDown(self) -> None:
        """Stop it."""
        self.server.terminate()
        self.server.wait(20)
        assert self.server.stdout is not None
        self.server.stdout.close()

    def asked(self, own: str) -> int:
        """Ask for the jobs from another address of this machine, as another phone would."""
        with httpx2.Client(transport=httpx2.HTTPTransport(local_address=own)) as phone:
            return int(phone.get(self.url, timeout=30).status_code)

    def test_half_sent_heads_shut_nobody_out(self) -> None:
        """Eleven hundred heads half sent from one address: all others are served, and after a while they are gone."""
        held = []
        for _ in range(HELD):
            try:
                one = socket.create_connection(("127.0.0.1", self.port), 20)
                one.sendall(b"GET /api/jobs HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")
                held.append(one)
            except OSError:
                break  # turned away: that is as well
        for n in range(20):
            self.assertEqual(self.asked(f"127.0.0.{2 + n % 3}"), 200)
        still = 0
        until = time.monotonic() + 6 * HEAD
        while time.monotonic() < until:
            still = sum(_is_open(s) for s in held)
            if not still:
                break
            time.sleep(0.5)
        self.assertEqual(still, 0, "a head that never comes is not waited for")
        self.assertEqual(self.asked("127.0.0.1"), 200)
        for one in held:
            one.close()

    def test_one_address_has_so_many(self) -> None:
        """More connections than a phone ever needs are closed at once; those it has go on working."""
        mine = [socket.create_connection(("127.0.0.1", self.port), 20) for _ in range(MOST_OF_ONE + 20)]
        until = time.monotonic() + 30
        while time.monotonic() < until and sum(_is_open(s) for s in mine) > MOST_OF_ONE:
            time.sleep(0.1)
        self.assertLessEqual(sum(_is_open(s) for s in mine), MOST_OF_ONE)
        first = next(s for s in mine if _is_open(s))
        first.sendall(b"GET /api/jobs HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        first.settimeout(30)
        self.assertTrue(first.recv(12).startswith(b"HTTP/1.1 200"))
        for one in mine:
            one.close()


def _is_open(one: socket.socket) -> bool:
    """Whether the other side has closed a connection, without taking anything from it."""
    one.setblocking(False)
    try:
        return one.recv(1, socket.MSG_PEEK) != b""
    except BlockingIOError:
        return True
    except OSError:
        return False


if __name__ == "__main__":
    unittest.main()
