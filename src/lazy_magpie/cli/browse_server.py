"""Serves the live pages on loopback: to who knows the address alone, to read, and to no page of another site.

The address has a token in it; the Host must be loopback, so that no name that leads here is taken; requests that other
sites' pages make are refused, and what is served may not be framed or read by them.
"""

from __future__ import annotations

import secrets
import threading
from typing import Any
from urllib.parse import parse_qs, urlsplit

from lazy_magpie.errors import MagpieError
from lazy_magpie.loopback import HOST, LoopbackServer, QuietRequestHandler
from lazy_magpie.services.live_pages import Asked, LivePages

_NAMES = (HOST, "localhost")
_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'nonce-{nonce}'; img-src 'self' data:; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
_LONGEST = 8_000
_AT_ONCE = 8
_HTML = "text/html; charset=utf-8"


class BrowseServer(LoopbackServer):
    """Serves the pages of one collection."""

    def __init__(self, pages: LivePages, port: int) -> None:
        self.pages = pages
        self.token = secrets.token_urlsafe(18)
        self.free = threading.BoundedSemaphore(_AT_ONCE)
        super().__init__(port, _RequestHandler)

    @property
    def url(self) -> str:
        """The address of the first page."""
        return f"{super().url}{self.token}/"


class _RequestHandler(QuietRequestHandler):
    server: BrowseServer
    server_version = "magpie"
    protocol_version = "HTTP/1.1"

    def do_GET(self) -> None:
        """Answer a request to read."""
        nonce = secrets.token_urlsafe(12)
        try:
            status, type, body = self._answer(nonce)
        except MagpieError as error:
            status, type, body = 500, "text/plain; charset=utf-8", str(error).encode("utf-8", "replace")
        self._send(status, type, body, nonce)

    do_HEAD = do_GET

    def __getattr__(self, name: str) -> Any:
        if name.startswith("do_"):  # whatever other methods there are: nothing here is written
            return lambda: self._send(405, "text/plain; charset=utf-8", b"Only to be read.", "")
        raise AttributeError(name)

    def _answer(self, nonce: str) -> tuple[int, str, bytes]:
        refused = 404, "text/plain; charset=utf-8", b"There is nothing here."
        host, _, port = self.headers.get("Host", "").rpartition(":")
        if host not in _NAMES or port != str(self.server.server_port) or len(self.path) > _LONGEST:
            return refused
        if self.headers.get("Sec-Fetch-Site", "none") in ("cross-site", "same-site"):
            return refused
        asked = urlsplit(self.path)
        token, _, place = asked.path.removeprefix("/").partition("/")
        if not secrets.compare_digest(token.encode(), self.server.token.encode()):
            return refused
        pages = self.server.pages
        if place.startswith("picture/"):
            picture = pages.picture(place.removeprefix("picture/"))
            if picture is None:
                return refused
            return (200, "image/webp", picture) if picture else (204, "image/webp", b"")
        with self.server.free:
            if place == "":
                return 200, _HTML, pages.wall(_asked(asked.query), nonce).encode("utf-8", "replace")
            if place == "report":
                return 200, _HTML, pages.report().encode("utf-8", "replace")
        return refused

    def _send(self, status: int, type: str, body: bytes, nonce: str) -> None:
        self.send_response(status)
        self.send_header("Content-Type", type)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Cache-Control", "private, max-age=3600" if type == "image/webp" else "no-store")
        for name, value in (
            ("Content-Security-Policy", _POLICY.format(nonce=nonce)),
            ("X-Content-Type-Options", "nosniff"),
            ("Referrer-Policy", "no-referrer"),
            ("Cross-Origin-Resource-Policy", "same-origin"),
            ("Cross-Origin-Opener-Policy", "same-origin"),
            ("X-Frame-Options", "DENY"),
        ):
            self.send_header(name, value)
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)


def _asked(query: str) -> Asked:
    said = {name: values[-1] for name, values in parse_qs(query, errors="replace").items()}
    page = said.get("page", "1")
    return Asked(
        said.get("words", ""),
        said.get("sort", ""),
        "down" in said,
        int(page) if page.isdecimal() and len(page) < 9 else 1,
    )
