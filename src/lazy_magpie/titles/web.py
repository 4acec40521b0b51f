"""One careful request to a service that may be slow, broken or hostile: limits on time, size and redirects, retries."""

from __future__ import annotations

import json
import math
import time
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any
from urllib.parse import urljoin, urlsplit

from lazy_magpie.errors import MagpieError

if TYPE_CHECKING:
    import httpx

TRIES = 3
PAUSE = 0.4
"""Seconds before the second try; each further pause is three times as long."""
CONNECT, READ, WHOLE = 3.0, 8.0, 20.0
"""Seconds to connect, between two pieces of an answer, and for a whole answer."""
LARGEST = 4 << 20
"""Bytes that an answer may have."""
_REDIRECTS = 4


class ServiceError(MagpieError):
    """A title service did not answer as it should; the message says what it did, in one sentence."""


class _Again(Exception):
    """The request may succeed if it is tried again; the message says what went wrong."""


class Refused(ServiceError):
    """The service refused the request itself (a status from 400 to 499, or 501)."""


def client() -> httpx.Client:
    """Return a client for requests to one service."""
    import httpx

    return httpx.Client(
        timeout=httpx.Timeout(READ, connect=CONNECT), headers={"Accept": "application/json"}, follow_redirects=False
    )


def fetch(http: httpx.Client, url: str, data: Mapping[str, str] | None = None) -> Any:
    """Return the JSON that a GET, or with `data` a POST of form data, brings. Raises ServiceError."""
    pause = PAUSE
    for attempt in range(1, TRIES + 1):
        try:
            return _json(_once(http, url, data), url)
        except _Again as error:
            if attempt == TRIES:
                raise ServiceError(f"The title service {_host(url)} {error}.") from error
        time.sleep(pause)
        pause *= 3
    raise AssertionError


def _once(http: httpx.Client, url: str, data: Mapping[str, str] | None) -> bytes:
    import httpx

    for _ in range(_REDIRECTS):
        try:
            with http.stream("POST" if data else "GET", url, data=data) as response:
                if response.is_redirect:
                    url, data = _redirected(url, response), data if response.status_code in (307, 308) else None
                    continue
                if (response.status_code >= 500 and response.status_code != 501) or response.status_code == 429:
                    raise _Again(f"answers with the error {response.status_code}")
                if response.status_code != 200:
                    raise Refused(f"The title service {_host(url)} refuses the request ({response.status_code}).")
                return _body(response, url)
        except (httpx.InvalidURL, httpx.UnsupportedProtocol) as error:
            raise ServiceError(f"“{url}” is no web address: {error}.") from error
        except (httpx.TimeoutException, httpx.TransportError, httpx.DecodingError) as error:
            raise _Again(_in_words(error)) from error
    raise ServiceError(f"The title service {_host(url)} redirects again and again.")


def _redirected(url: str, response: httpx.Response) -> str:
    target = urljoin(url, str(response.headers.get("location", "")))
    if urlsplit(target).scheme not in ("http", "https"):
        raise ServiceError(f"The title service {_host(url)} redirects to {target[:80]}, which is no web address.")
    return target


def _body(response: httpx.Response, url: str) -> bytes:
    until = time.monotonic() + WHOLE
    body = bytearray()
    for piece in response.iter_bytes():
        body += piece
        if len(body) > LARGEST:
            raise ServiceError(f"The title service {_host(url)} answers with more than {LARGEST >> 20} MiB.")
        if time.monotonic() > until:
            raise _Again(f"takes longer than {WHOLE:.0f} seconds for an answer")
    return bytes(body)


def _json(body: bytes, url: str) -> Any:
    try:
        return _plain(json.loads(body, parse_constant=_no_number))
    except (ValueError, RecursionError):
        raise ServiceError(f"The title service {_host(url)} answers with something that is not JSON.") from None


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number of JSON")


def _plain(value: Any) -> Any:
    """Return a JSON value with texts that can be written down: halves of characters are replaced.

    Raises ValueError for a number that is larger than any, RecursionError for what is nested without end.
    """
    if isinstance(value, str):
        return value.encode("utf-8", "replace").decode()
    if isinstance(value, float) and not math.isfinite(value):
        raise ValueError("a number without end")
    if isinstance(value, int) and abs(value) >= 1 << 63:
        raise ValueError("a number that is far too large")
    if isinstance(value, list):
        return [_plain(one) for one in value]
    if isinstance(value, dict):
        return {_plain(key): _plain(one) for key, one in value.items()}
    return value


def _in_words(error: Exception) -> str:
    import httpx

    if isinstance(error, httpx.ConnectTimeout | httpx.ConnectError):
        return "can't be reached"
    if isinstance(error, httpx.TimeoutException):
        return f"does not answer within {READ:.0f} seconds"
    return "cuts its answer off"


def _host(url: str) -> str:
    try:
        return urlsplit(url).netloc or url
    except ValueError:
        return url
