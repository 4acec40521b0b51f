"""A title list served by the Reconciliation Service API 0.2 on loopback: a stand-in for a title service, or a way to
share a list at home.

    GET  /                      the manifest
    POST / or GET /?queries=…   a batch of queries, with type and the property `year`
    POST / or GET /?extend=…    year, other titles, maker and episodes of ids
    GET  /properties?type=…     the properties there are
    GET  /view?id=…             one title as text
"""

from __future__ import annotations

import json
import re
import sqlite3
import threading
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from lazy_magpie.catalogue import Title, Titles, in_memory
from lazy_magpie.loopback import LoopbackServer, QuietRequestHandler
from lazy_magpie.titles.list_files import KINDS, read_titles
from lazy_magpie.titles.match import TitleMatch, is_clear, ranked

MOST_QUERIES = 50
LARGEST = 1 << 20
"""Queries in a batch, and bytes in a request, at the most."""
PROPERTIES = {"year": "year", "other_titles": "other titles", "maker": "maker", "episodes": "episodes"}


class Server(LoopbackServer):
    """Serves one list; requests are answered one after the other."""

    def __init__(self, path: Path, port: int) -> None:
        self.db: sqlite3.Connection = in_memory()
        self.titles = Titles(self.db)
        self.count = self.titles.add(self.titles.add_list(path.name, str(path), "file"), read_titles(path))
        self.name = path.stem
        self.lock = threading.Lock()
        super().__init__(port, _RequestHandler)

    def title(self, id: str) -> Title | None:
        """Return the title with this id."""
        return self.titles.by_id(int(id)) if id.isdecimal() else None


class _RequestHandler(QuietRequestHandler):
    server: Server
    server_version = "magpie-titles"

    def do_GET(self) -> None:
        """Answer the manifest, queries and extensions by GET, properties, a title's page."""
        self._guarded(self._get)

    def do_POST(self) -> None:
        """Answer queries and extensions sent as form data."""
        self._guarded(self._post)

    def _guarded(self, act: Callable[[], None]) -> None:
        """Answer one request: what is wrong with it, or goes wrong with it, is an answer, too.

        Only what asks this machine by its own name is answered, and no page that a browser has from elsewhere.
        """
        asked = [self.headers.get("Host", "")]
        if (origin := self.headers.get("Origin")) is not None:
            asked.append(urlsplit(origin).netloc)
        if any(_name_in(host) not in _LOOPBACK for host in asked):
            self._send({"error": "only this machine itself is answered"}, 403)
            return
        try:
            act()
        except (ValueError, AttributeError, TypeError, KeyError, IndexError, RecursionError, OverflowError) as error:
            self._send({"error": f"this is no request of the API: {error}"}, 400)

    def _get(self) -> None:
        parts = urlsplit(self.path)
        values = {key: found[0] for key, found in parse_qs(parts.query).items()}
        match parts.path:
            case "/" | "":
                self._answer(values)
            case "/properties":
                offered = [{"id": id, "name": name} for id, name in PROPERTIES.items()]
                self._send({"type": values.get("type", ""), "properties": offered})
            case "/view" if title := self.server.title(values.get("id", "")):
                self._send_text(f"{title.title} ({title.year or 'year not known'}), {title.kind}\n")
            case _:
                self._send({"error": "there is nothing at this address"}, 404)

    def _post(self) -> None:
        text = self.headers.get("Content-Length", "")
        if not text.isdecimal():
            self._send({"error": "a request says how many bytes it has: Content-Length"}, 411)
            return
        length = int(text[:20])
        if length > LARGEST:
            self._send({"error": f"a request has at most {LARGEST} bytes"}, 413)
            return
        form = parse_qs(self.rfile.read(length).decode("utf-8", "replace"))
        self._answer({key: found[0] for key, found in form.items()})

    def _answer(self, values: Mapping[str, str]) -> None:
        with self.server.lock:
            if "queries" in values:
                answer = self._queries(json.loads(values["queries"]))
            elif "extend" in values:
                answer = self._extend(json.loads(values["extend"]))
            else:
                answer = self._manifest()
        self._send(answer)

    def _manifest(self) -> dict[str, Any]:
        url = self.server.url
        return {
            "versions": ["0.2"],
            "name": f"Titles of {self.server.name}",
            "identifierSpace": f"{url}view?id=",
            "schemaSpace": f"{url}properties#",
            "defaultTypes": [{"id": kind, "name": kind} for kind in KINDS],
            "view": {"url": f"{url}view?id={{{{id}}}}"},
            "batchSize": MOST_QUERIES,
            "extend": {
                "propose_properties": {"service_url": url.rstrip("/"), "service_path": "/properties"},
                "property_settings": [],
            },
        }

    def _queries(self, queries: Mapping[str, Any]) -> dict[str, Any]:
        if len(queries) > MOST_QUERIES:
            raise ValueError(f"a batch has at most {MOST_QUERIES} queries")
        return {key: {"result": self._query(query)} for key, query in queries.items()}

    def _query(self, query: Mapping[str, Any]) -> list[dict[str, Any]]:
        kind = query.get("type")
        kind = kind[0] if isinstance(kind, list) and kind else kind
        kinds = [str(kind)] if kind else list(KINDS)
        year = next((int(p["v"]) for p in query.get("properties") or () if p.get("pid") == "year"), 0)
        found = ranked(self.server.titles, kinds, str(query["query"]), year)
        clear = is_clear(found)
        limit = int(query.get("limit") or 5)
        return [_result(one, clear and number == 0) for number, one in enumerate(found[:limit])]

    def _extend(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        asked = [str(one["id"]) for one in wanted["properties"] if one["id"] in PROPERTIES]
        rows = {}
        for id in map(str, wanted["ids"]):
            title = self.server.title(id)
            cells: dict[str, Any] = {
                "year": [{"int": title.year}] if title and title.year else [],
                "other_titles": [{"str": other} for other in title.others] if title else [],
                "maker": [{"str": title.maker}] if title and title.maker else [],
                "episodes": [{"str": f"{s}x{e:02} {name}".strip()} for s, e, name in self._episodes(title)],
            }
            rows[id] = {pid: cells[pid] for pid in asked}
        return {"meta": [{"id": pid, "name": PROPERTIES[pid]} for pid in asked], "rows": rows}

    def _episodes(self, title: Title | None) -> Iterable[tuple[int, int, str]]:
        return self.server.titles.episodes(title.id) if title else ()

    def _send(self, value: Any, status: int = 200) -> None:
        self._send_bytes(json.dumps(value).encode(), "application/json", status)

    def _send_text(self, text: str) -> None:
        self._send_bytes(text.encode(), "text/plain; charset=utf-8", 200)

    def _send_bytes(self, body: bytes, sort: str, status: int) -> None:
        self.send_response(status)
        self.send_header("Content-Type", sort)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("X-Content-Type-Options", "nosniff")
        self.end_headers()
        self.wfile.write(body)


_LOOPBACK = frozenset(["localhost", "127.0.0.1", "[::1]"])


def _name_in(host: str) -> str:
    """Return the name in a `Host` header or an origin, without its port."""
    return re.sub(r":\d+$", "", host.strip().lower())


def _result(one: TitleMatch, clear: bool) -> dict[str, Any]:
    """Return a candidate as the API's result."""
    title = one.title
    return {
        "id": str(title.id),
        "name": title.title,
        "description": str(title.year or ""),
        "type": [{"id": title.kind, "name": title.kind}],
        "score": round(100 * one.score, 2),
        "match": clear,
        "features": [{"id": "likeness", "value": round(one.likeness, 4)}],
    }
