"""What every request passes first: its host, its origin, its size, its rate, and the crew's passphrase when shared."""

from __future__ import annotations

import hmac
import secrets
import time
from collections import defaultdict, deque
from dataclasses import dataclass, field

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import cookie_parser
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hydrarch.api.problems import ProblemDocument, TooLarge, problem, respond, too_large

__all__ = ["Guard", "Settings"]

LARGEST_BODY = 5_000_000
_POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; connect-src 'self'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_UNSAFE = ("POST", "PUT", "PATCH", "DELETE")


@dataclass(frozen=True, slots=True)
class Settings:
    """How the server is reached. `hosts` are the names it answers to; a `passphrase` means that it is shared."""

    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]", "testserver")
    passphrase: str | None = None
    requests_per_minute: int = 1200
    tries_per_minute: int = 6


@dataclass(slots=True)
class Guard:
    """ASGI middleware around the whole application."""

    app: ASGIApp
    settings: Settings
    sessions: set[str] = field(default_factory=set)
    _seen: dict[str, deque[float]] = field(default_factory=lambda: defaultdict(deque))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it with the reason it may not pass."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refused = self._refuse(scope, headers)
        if refused is not None:
            await respond(refused)(scope, receive, send)
            return
        size = 0

        async def measured() -> Message:
            nonlocal size
            message = await receive()
            size += len(message.get("body", b""))
            if size > LARGEST_BODY:
                raise TooLarge(LARGEST_BODY)
            return message

        async def sealed(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out["Content-Security-Policy"] = _POLICY
                out["X-Content-Type-Options"] = "nosniff"
                out["Referrer-Policy"] = "no-referrer"
            await send(message)

        await self.app(scope, measured, sealed)

    def _refuse(self, scope: Scope, headers: Headers) -> ProblemDocument | None:
        host = headers.get("host", "").rsplit(":", 1)[0] if not headers.get("host", "").endswith("]") else headers["host"]
        if host not in self.settings.hosts:
            return problem(
                "host", "Unknown host", 403, f"This server does not answer to '{host}'.", "Use the address it printed."
            )
        origin = headers.get("origin")
        if origin and scope["method"] in _UNSAFE and origin.split("://", 1)[-1] != headers.get("host"):
            return problem(
                "origin", "Foreign page", 403, f"A page of {origin} may not change jobs here.", "Open Hydrarch itself."
            )
        try:
            announced = int(headers.get("content-length", "0"))
        except ValueError:
            announced = LARGEST_BODY + 1
        if announced > LARGEST_BODY:
            return too_large(LARGEST_BODY)
        client = scope["client"][0] if scope.get("client") else ""
        if not self._within(client, self.settings.requests_per_minute):
            return problem("rate", "Too many requests", 429, "Too many requests in a minute.", "Wait a minute and go on.")
        path = scope["path"]
        if self.settings.passphrase and path.startswith("/api/") and path != "/api/session":
            given = cookie_parser(headers.get("cookie", "")).get("hydrarch", "")
            if given not in self.sessions:
                return problem(
                    "session", "Who are you?", 401, "This job is shared behind the crew's passphrase.", "Type the passphrase."
                )
        return None

    def _within(self, key: str, most: int) -> bool:
        now, seen = time.monotonic(), self._seen[key]
        while seen and seen[0] < now - 60:
            seen.popleft()
        seen.append(now)
        return len(seen) <= most

    def open_session(self, client: str, passphrase: str) -> str | None:
        """A new session's token for the right passphrase, None for a wrong one or too many tries."""
        if not self._within(f"try {client}", self.settings.tries_per_minute):
            return None
        if not hmac.compare_digest(passphrase.encode(), (self.settings.passphrase or "").encode()):
            return None
        token = secrets.token_urlsafe(32)
        self.sessions.add(token)
        return token
