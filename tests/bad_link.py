"""A link between a browser and a server that stalls, cuts, doubles and answers for itself, at any byte of what is sent.

It reads whole requests, so that what it does is known: which request it spoilt, how, and at which byte. What is only
asked for (GET) is passed as it is, unless it is told otherwise.
"""

from __future__ import annotations

import contextlib
import random
import socket
import threading
from collections import Counter
from typing import Literal

__all__ = ["BadLink"]

Fault = Literal["pass", "cut going", "cut coming", "stall going", "stall coming", "double", "own answer"]

_FAULTS: tuple[Fault, ...] = ("cut going", "cut coming", "stall going", "stall coming", "double", "own answer")
_STATUSES = (200, 204, 302, 400, 401, 403, 404, 408, 409, 411, 413, 425, 429, 431, 500, 502, 503, 504, 511)
_CAPTIVE = b"<html><body>Welcome to the harbour's network. Please log in.</body></html>"


class BadLink:
    """Listens on a port of its own (`address`) and leads to a server; `share` of what changes something is spoilt.

    `done` counts what was done to how many requests; each choice follows from `seed` alone. Stalls last `stall` s.
    """

    def __init__(self, port: int, seed: int, share: float = 0.5, stall: float = 0.3) -> None:
        self.port, self.share, self.stall = port, share, stall
        self.done: Counter[str] = Counter()
        self._rng, self._lock = random.Random(seed), threading.Lock()
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.address = f"http://127.0.0.1:{self._listener.getsockname()[1]}"
        self._open = True
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self) -> None:
        """Take no more connections."""
        self._open = False
        self._listener.close()

    def _accept(self) -> None:
        while self._open:
            try:
                near, _ = self._listener.accept()
            except OSError:
                return
            threading.Thread(target=self._serve, args=(near,), daemon=True).start()

    def _serve(self, near: socket.socket) -> None:
        """One request a connection: the answer says that it closes."""
        with contextlib.suppress(OSError), near:
            near.settimeout(30)
            request = _whole(near)
            if request is None:
                return
            method = request.split(b" ", 1)[0]
            with self._lock:
                spoilt = method not in (b"GET", b"HEAD") and self._rng.random() < self.share
                fault: Fault = self._rng.choice(_FAULTS) if spoilt else "pass"
                at, status = self._rng.random(), self._rng.choice(_STATUSES)
            self.done[fault] += 1
            self._do(near, _closing(request), fault, at, status)

    def _do(self, near: socket.socket, request: bytes, fault: Fault, at: float, status: int) -> None:
        if fault == "own answer":
            near.sendall(b"HTTP/1.1 %d X\r\nContent-Type: text/html\r\nConnection: close\r\n" % status)
            body = b"" if status == 204 else _CAPTIVE
            near.sendall(b"Content-Length: %d\r\n\r\n%b" % (len(body), body))
            return
        if fault == "double":
            with contextlib.suppress(OSError):
                _answered(self.port, request)
        with socket.create_connection(("127.0.0.1", self.port), timeout=30) as far:
            part = request[: int(at * len(request))] if fault in ("cut going", "stall going") else request
            far.sendall(part)
            if fault == "cut going":
                return
            if fault == "stall going":
                threading.Event().wait(self.stall)
                far.sendall(request[len(part) :])
            sent, most = 0, int(at * 2000)
            while piece := far.recv(65536):
                if fault == "cut coming" and sent + len(piece) > most:
                    near.sendall(piece[: max(most - sent, 0)])
                    return
                if fault == "stall coming" and sent == 0:
                    near.sendall(piece[: most % len(piece)])
                    threading.Event().wait(self.stall)
                    piece = piece[most % len(piece) :]
                near.sendall(piece)
                sent += len(piece)


def _whole(near: socket.socket) -> bytes | None:
    """A request with its body; None where it ended before."""
    got = b""
    while b"\r\n\r\n" not in got:
        piece = near.recv(65536)
        if not piece:
            return None
        got += piece
    head, _, body = got.partition(b"\r\n\r\n")
    fields = dict(line.lower().split(b":", 1) for line in head.split(b"\r\n")[1:] if b":" in line)
    long = int(fields.get(b"content-length", b"0"))
    while len(body) < long:
        piece = near.recv(65536)
        if not piece:
            return None
        body += piece
    return head + b"\r\n\r\n" + body


def _closing(request: bytes) -> bytes:
    """The same request, of a connection that ends with it."""
    head, _, body = request.partition(b"\r\n\r\n")
    lines = [line for line in head.split(b"\r\n") if not line.lower().startswith((b"connection:", b"keep-alive:"))]
    return b"\r\n".join([*lines, b"Connection: close"]) + b"\r\n\r\n" + body


def _answered(port: int, request: bytes) -> bytes:
    with socket.create_connection(("127.0.0.1", port), timeout=30) as far:
        far.sendall(request)
        got = b""
        while piece := far.recv(65536):
            got += piece
        return got
