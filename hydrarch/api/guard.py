"""What every request passes first: its origin, its rate, the crew's passphrase when shared; host and size by the
framework's own.
"""

from __future__ import annotations

import asyncio
import hmac
import time
from collections import defaultdict, deque
from dataclasses import dataclass, field
from typing import Literal
from urllib.parse import quote

from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import cookie_parser
from starlette.responses import RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hydrarch.api.problems import LARGEST_BODY, ProblemDocument, problem, respond, too_large
from hydrarch.api.sessions import Sessions
from hydrarch.formats.trusting import Trust
from hydrarch.store.crew import Session

__all__ = ["Guard", "Settings"]

_POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_PAPER = (
    "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'none'"
)
"""Of a document that is made here to be printed or read by itself: no script runs in it, and it has its styles in it."""
_ALLOWED = "camera=(self), geolocation=(), microphone=(), payment=(), usb=()"
_UNSAFE = ("POST", "PUT", "PATCH", "DELETE")


@dataclass(frozen=True, slots=True)
class Settings:
    """How the server is reached. `hosts` are the names it answers to; a `passphrase` means that it is shared; with an
    `owner`'s passphrase beside it, only who joins by that deletes for good, ends sessions of others and restores.

    `tries_per_minute` are the wrong guesses that one device has, `tries_of_all` those that all have together;
    `patience` is how long (s) the next part of a body is waited for. `trust` says how a phone comes to trust the
    server's address, None where there is but the plain one.
    """

    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]")
    passphrase: str | None = None
    owner: str | None = None
    requests_per_minute: int = 1200
    tries_per_minute: int = 6
    tries_of_all: int = 30
    trust: Trust | None = None
    patience: float = 30.0


@dataclass(slots=True)
class Guard:
    """ASGI middleware around the whole application."""

    app: ASGIApp
    settings: Settings
    sessions: Sessions
    _wrong: dict[str, deque[float]] = field(default_factory=lambda: defaultdict(deque))
    _seen: dict[str, deque[float]] = field(default_factory=lambda: defaultdict(deque))
    _known_hosts: ASGIApp = field(init=False)

    def __post_init__(self) -> None:
        """Put the check of hosts before all else."""
        self._known_hosts = TrustedHostMiddleware(self._inside, list(self.settings.hosts), www_redirect=False)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it with the reason it may not pass."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        plain: list[ProblemDocument] = []

        async def sealed(message: Message) -> None:
            if message["type"] == "http.response.start":
                document = _in_words(message, headers)
                if document is not None:  # the framework refused in plain text
                    plain.append(document)
                    return
                out = MutableHeaders(scope=message)
                if "content-security-policy" not in out:  # a picture has a stricter one
                    alone = scope["path"].startswith(("/api/", "/trust")) and "html" in out.get("content-type", "")
                    out["Content-Security-Policy"] = _PAPER if alone else _POLICY
                out["X-Content-Type-Options"] = "nosniff"
                out["Referrer-Policy"] = "no-referrer"
                out["Permissions-Policy"] = _ALLOWED
                if scope["path"].startswith("/api/"):
                    out["X-Answered-By"] = "hydrarch"  # what answers in our place on the way says no such thing
                    if "cache-control" not in out:
                        out["Cache-Control"] = "no-store"
                if scope.get("scheme") == "https":
                    out["Strict-Transport-Security"] = "max-age=31536000"
            elif plain:
                if not message.get("more_body"):
                    await respond(plain.pop())(scope, receive, sealed)
                return
            await send(message)

        await self._known_hosts(scope, receive, sealed)

    async def _inside(self, scope: Scope, receive: Receive, send: Send) -> None:
        moved = self._secured(scope)
        if moved is not None:
            await RedirectResponse(moved, 308)(scope, receive, send)
            return
        refused = self._refuse(scope, Headers(scope=scope))
        await (respond(refused) if refused is not None else self.app)(scope, self._hurried(receive), send)

    def _secured(self, scope: Scope) -> str | None:
        """Where a plain request is to go instead, on a server that has a certificate: all but the page that tells how a
        phone comes to trust it.
        """
        trust, path = self.settings.trust, scope["path"]
        if trust is None or scope.get("scheme") != "http" or path == "/trust" or path.startswith("/trust/"):
            return None
        query = scope.get("query_string", b"").decode("latin-1")
        return f"{trust.secure}{quote(path)}{f'?{query}' if query else ''}"

    def _hurried(self, receive: Receive) -> Receive:
        """A body that stops coming half-way is given up after a while: as if its sender had gone.

        What was sent whole waits for nothing.
        """
        whole = False

        async def hurried() -> Message:
            nonlocal whole
            if whole:
                return await receive()
            try:
                found = await asyncio.wait_for(receive(), self.settings.patience)
            except TimeoutError:
                return {"type": "http.disconnect"}
            whole = found["type"] != "http.request" or not found.get("more_body", False)
            return found

        return hurried

    def _refuse(self, scope: Scope, headers: Headers) -> ProblemDocument | None:
        origin = headers.get("origin")
        if origin and scope["method"] in _UNSAFE and origin.split("://", 1)[-1] != headers.get("host"):
            return problem(
                "origin", "Foreign page", 403, f"A page of {origin} may not change jobs here.", "Open Hydrarch itself."
            )
        client = scope["client"][0] if scope.get("client") else ""
        # the files of the page itself cost nothing and are kept by the browser: only what is asked of the job counts
        asks = scope["path"].startswith("/api/")
        if asks and not self._within(client, self.settings.requests_per_minute):
            return problem(
                "rate", "Too many requests", 429, "Too many requests in a minute.", "Wait a minute and go on."
            )
        path = scope["path"]
        if path.startswith("/api/") and path != "/api/session" and not self.lets_in(headers):
            return problem(
                "session",
                "Who are you?",
                401,
                "This job is shared behind the crew's passphrase.",
                "Type the passphrase.",
            )
        return None

    def session_of(self, headers: Headers) -> Session | None:
        """The session a request comes with; None where it comes with none, or with one that ended."""
        return self.sessions.find(cookie_parser(headers.get("cookie", "")).get("hydrarch", ""))

    def owns(self, headers: Headers) -> bool:
        """Whether a request may do what is the owner's: all may where no owner's passphrase was set."""
        if self.settings.passphrase is None or self.settings.owner is None:
            return True
        found = self.session_of(headers)
        return found is not None and found.owner

    def lets_in(self, headers: Headers) -> bool:
        """Whether a request may still be answered: for streams, which outlast what let them in."""
        return self.settings.passphrase is None or self.session_of(headers) is not None

    def _within(self, key: str, most: int) -> bool:
        now, seen = time.monotonic(), self._seen[key]
        while seen and seen[0] < now - 60:
            seen.popleft()
        seen.append(now)
        return len(seen) <= most

    def waits(self, client: str) -> float:
        """How long (s) until a device may guess again: 0 while it may. Only wrong guesses count."""
        now = time.monotonic()
        for seen in (mine := self._wrong[client], all_ := self._wrong[""]):
            while seen and seen[0] < now - 60:
                seen.popleft()
        full = [
            s
            for s, most in ((mine, self.settings.tries_per_minute), (all_, self.settings.tries_of_all))
            if len(s) >= most
        ]
        return max((s[0] + 60 - now for s in full), default=0.0)

    def role(self, client: str, passphrase: str) -> Literal["owner", "crew"] | None:
        """Whose passphrase it is; None for a wrong one, which is counted.

        It is not to be asked while a device `waits`.
        """
        given = passphrase.encode()
        owner = hmac.compare_digest(given, (self.settings.owner or "").encode()) and bool(self.settings.owner)
        crew = hmac.compare_digest(given, (self.settings.passphrase or "").encode())
        if owner or crew:
            return "owner" if owner else "crew"
        for who in {client, ""}:
            self._wrong[who].append(time.monotonic())
        return None


def _in_words(start: Message, asked: Headers) -> ProblemDocument | None:
    """What the framework refused in plain text (an unknown host, a body too large), as a problem document; None for all
    else.
    """
    kind = Headers(raw=start["headers"]).get("content-type", "")
    if not kind.startswith("text/plain"):
        return None
    if start["status"] == 413:
        return too_large(LARGEST_BODY)
    if start["status"] == 400:
        host = asked.get("host", "")
        return problem(
            "host", "Unknown host", 400, f"This server does not answer to '{host}'.", "Use the address it printed."
        )
    return None
