"""Title lists: read, searched, matched; title services: asked, cached, and borne with when they misbehave."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.catalogue import Titles, in_memory
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.title_keys import key_of, keys_of
from lazy_magpie.titles import candidates, web
from lazy_magpie.titles.list_files import read_titles
from lazy_magpie.titles.match import is_clear
from lazy_magpie.titles.reconciliation_client import Service, Services
from lazy_magpie.titles.reconciliation_server import Server
from lazy_magpie.titles.web import ServiceError
from tests.conftest import Collection

Tree = Callable[..., Collection]
LIST = """kind;title;year;Other_Titles;season;episode;episode title;air date
movie;The Tern Watchers;1985;Les Guetteurs|Terns;;;;
movie;Kelp Ballad;1993;;;;;
movie;Kelp Ballad;2011;;;;;
movie;Маяк;1981;;;;;
movie;Die Flöte;1961;;;;;
movie;Salt & Rope;1979;;;;;
movie;Gale III;1978;;;;;
movie;Phare, Le;1951;;;;;
series;Captain Gale;1999;;1;5;The Wreck;1999-03-07
series;Captain Gale;1999;;1;2;The 1962 Storm;
"""


@pytest.fixture
def listed(tmp_path: Path) -> Path:
    path = tmp_path / "list.csv"
    path.write_text(LIST, "utf-8")
    return path


@pytest.fixture
def titles(listed: Path) -> Titles:
    found = Titles(in_memory())
    found.add(found.add_list("list", str(listed), "file"), read_titles(listed))
    return found


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("The Tern Watchers", "tern watchers"),
        ("Tern Watchers, The", "The Tern Watchers"),
        ("Élan des Mouettes", "elan des mouettes"),
        ("Salt & Rope", "Salt and Rope"),
        ("Маяк", "Mayak"),
        ("Τα Καράβια", "Ta Karavia"),
        ("Gale III", "Gale 3"),
        ("Half-Tide", "Halftide"),
        ("Dr. Pell's Lamp", "Dr Pells Lamp"),
        ("Straße am Meer", "Strasse am Meer"),
    ],
)
def test_spellings_of_one_title_share_a_key(one: str, other: str) -> None:
    assert set(keys_of(one)) & set(keys_of(other))


def test_an_umlaut_is_found_both_ways() -> None:
    assert {key_of("Die Floete"), key_of("Die Flote")} == set(keys_of("Die Flöte"))


@pytest.mark.parametrize(
    ("title", "year", "best", "clear"),
    [
        ("the tern watchers", 1985, "The Tern Watchers", True),
        ("The Tern Watchers", 1986, "The Tern Watchers", True),  # lists disagree by a year
        ("The Tern Watchers", 1971, "The Tern Watchers", False),
        ("The Tern Watchers", 0, "The Tern Watchers", True),
        ("Les Guetteurs", 1985, "The Tern Watchers", True),
        ("The Tern Watchrs", 1985, "The Tern Watchers", True),
        ("The Tern Watchrs", 0, "The Tern Watchers", False),
        ("Kelp Ballad", 0, "Kelp Ballad", False),  # there are two
        ("Kelp Ballad", 2011, "Kelp Ballad", True),
        ("Mayak", 1981, "Маяк", True),
        ("Die Floete", 1961, "Die Flöte", True),
        ("Gale 3", 1978, "Gale III", True),
        ("Le Phare", 1951, "Phare, Le", True),
    ],
)
def test_the_right_title_comes_first(titles: Titles, title: str, year: int, best: str, clear: bool) -> None:
    found = candidates(titles, "movie", title, year)
    assert found[0].title.title == best
    assert is_clear(found) is clear
    if best == "Kelp Ballad" and year:
        assert found[0].title.year == year


def test_what_is_unlike_is_no_candidate(titles: Titles) -> None:
    assert candidates(titles, "movie", "Nothing Like That", 1985) == []
    assert candidates(titles, "movie", "Captain Gale") == []  # a show, no film
    assert titles.episode(candidates(titles, "show", "captain gale")[0].title.id, 1, 5) == (
        "The Wreck",
        "1999-03-07",
    )


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("title,year\nx,1\n", "row 1: there is no column “kind”"),
        ("kind,title\nfilm,X\nmovi,Y\n", "row 3: there is no kind “movi”; did you mean “movie”?"),
        ("kind,title,year\nmovie,X,soon\n", "row 2: “year” is a number, not “soon”"),
        ("kind,title\nmovie,\n", "row 2: “title” is empty"),
    ],
)
def test_a_mistake_in_a_list_is_named_with_its_row(tmp_path: Path, text: str, message: str) -> None:
    path = tmp_path / "list.csv"
    path.write_text(text)
    with pytest.raises(UsageError, match="row") as raised:
        list(read_titles(path))
    assert message in str(raised.value)


def test_json_lines_are_read_too(tmp_path: Path) -> None:
    path = tmp_path / "list.jsonl"
    rows: list[dict[str, Any]] = [
        {"kind": "movie", "title": "Kelp", "year": 2001, "other titles": ["Varech"]},
        {"kind": "show", "title": "Dockside", "season": 1, "episode": 2, "episode_title": "Fog"},
    ]
    path.write_text("".join(json.dumps(row) + "\n" for row in rows))
    film, show = read_titles(path)
    assert (film.title, film.year, film.others) == ("Kelp", 2001, ["Varech"])
    assert list(show.episodes) == [(1, 2, "Fog", "")]
    path.write_text("[1]\n")
    with pytest.raises(UsageError, match="row 1: a row is a JSON object"):
        list(read_titles(path))


def test_lists_are_added_listed_searched_and_removed(tree: Tree, listed: Path) -> None:
    collection = tree([])
    assert collection.ok("titles", "add", str(listed), "--json").json["titles"] == 9
    assert collection.ok("titles", "add", str(listed), "--json").json["titles"] == 9  # again: takes the old one's place
    (one,) = collection.ok("titles", "list", "--json").lines
    assert (one["list"], one["type"], one["titles"]) == ("list", "file", 9)
    (found,) = collection.ok("titles", "search", "mayak", "--json").lines
    assert found["title"] == "Маяк" and found["year"] == 1981
    assert "did you mean “list”?" in collection.ok("titles", "drop", "lst", code=2).err
    collection.ok("titles", "drop", "list")
    assert collection.ok("titles", "search", "mayak", "--json").out == ""
    assert "takes add FILE|URL" in collection.ok("titles", "search", code=2).err


# --- services --------------------------------------------------------------------------------------------------------


@pytest.fixture
def served(listed: Path) -> Iterator[str]:
    """Serve the list on loopback, and yield the address."""
    server = Server(listed, 0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.url
    server.shutdown()
    server.server_close()


def test_a_service_says_what_it_can_and_is_asked_in_batches(served: str) -> None:
    service = Service(served)
    service.meet()
    assert service.types["movie"] == "movie" and service.properties["year"] == "year"
    found = service.ask([("movie", "tern watchers", 1985), ("movie", "kelp ballad", 0), ("movie", "zzz", 0)])
    (film,) = found["movie", "tern watchers", 1985]
    assert (film.title, film.year, film.others) == ("The Tern Watchers", 1985, ["Les Guetteurs", "Terns"])
    assert sorted(one.year for one in found["movie", "kelp ballad", 0]) == [1993, 2011]
    assert found["movie", "zzz", 0] == []
    (show,) = service.ask([("show", "captain gale", 0)])["show", "captain gale", 0]
    assert list(show.episodes) == [(1, 2, "The 1962 Storm", ""), (1, 5, "The Wreck", "")]


def test_a_service_that_takes_only_get_and_knows_no_types(served: str) -> None:
    service = Service(served)
    service.meet()
    service.by_get, service.types = True, {}
    (film,) = service.ask([("movie", "tern watchers", 1985)])["movie", "tern watchers", 1985]
    assert film.year == 1985


def test_answers_are_kept_so_that_all_goes_on_without_a_network(tree: Tree, listed: Path) -> None:
    collection = tree(["the tern watchers 1985.mp4"])
    collection.ok("scan")
    server = Server(listed, 0)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    collection.ok("titles", "add", server.url, "--name", "club")
    (before,) = collection.ok("settle", "--json", code=1).lines
    server.shutdown()
    server.server_close()
    (after,) = collection.ok("settle", "--json", code=1).lines
    assert after == before and after["clear"] and after["candidates"][0]["year"] == 1985
    collection.put("kelp ballad 1993.mp4")
    collection.ok("scan")
    answer = collection.run("settle", "--json")
    assert "can't be reached. Titles were not looked up there; all else goes on." in answer.err
    assert answer.err.count("\n") == 1 and len(answer.lines) == 2


class Bad(BaseHTTPRequestHandler):
    """Misbehaves in the way that the first part of the path names; the manifest alone is always good."""

    def log_message(self, format: str, *args: object) -> None:
        """Say nothing."""

    def do_GET(self) -> None:
        self._send(200, b'{"versions": ["0.2"], "name": "Bad"}')

    def do_POST(self) -> None:
        self.rfile.read(int(self.headers["Content-Length"]))
        match self.path.strip("/"):
            case "slow":
                time.sleep(1.5)
            case "error":
                self._send(500, b"no")
            case "cut":
                self.send_response(200)
                self.send_header("Content-Length", "1000")
                self.end_headers()
                self.wfile.write(b'{"q0":')
            case "garbage":
                self._send(200, b"\xff\xfe<html>")
            case "huge":
                self._send(200, b"[" + b"1," * (5 << 20) + b"1]")
            case "nested":
                self._send(200, b"[" * 200_000)
            case "file":
                self._send(302, b"", "file:///etc/passwd")
            case "circle":
                self._send(307, b"", "/circle")
            case "shape":
                self._send(200, b'{"q0": {"result": "none"}}')
            case "list":
                self._send(200, b"[1, 2]")

    def _send(self, status: int, body: bytes, location: str = "") -> None:
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        if location:
            self.send_header("Location", location)
        self.end_headers()
        self.wfile.write(body)


@pytest.fixture
def bad(monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """Serve badly, with short waits, and yield the address."""
    monkeypatch.setattr(web, "PAUSE", 0.001)
    monkeypatch.setattr(web, "READ", 0.3)
    server = ThreadingHTTPServer(("127.0.0.1", 0), Bad)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


BAD = {
    "slow": "does not answer within",
    "error": "answers with the error 500",
    "cut": "cuts its answer off",
    "garbage": "something that is not JSON",
    "huge": "answers with more than 4 MiB",
    "nested": "something that is not JSON",
    "file": "redirects to file:///etc/passwd, which is no web address",
    "circle": "redirects again and again",
    "shape": "in a form that is not the API's",
    "list": "in a form that is not the API's",
}


@pytest.mark.parametrize("way", BAD)
def test_a_service_that_misbehaves_costs_one_sentence(titles: Titles, bad: str, way: str) -> None:
    titles.add_list("bad", f"{bad}/{way}", "service")
    told: list[str] = []
    services = Services(titles, told.append)
    services.prepare([("movie", "tern watchers", 1985), ("movie", "kelp ballad", 0)])
    assert len(told) == 1 and BAD[way] in told[0] and told[0].endswith("all else goes on.")
    assert candidates(titles, "movie", "tern watchers", 1985)[0].title.year == 1985


def test_what_is_no_service_is_refused(tree: Tree, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(web, "PAUSE", 0.001)
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        port = taken.getsockname()[1]
    answer = tree([]).ok("titles", "add", f"http://127.0.0.1:{port}/", code=3)
    assert "can't be reached" in answer.err and "Traceback" not in answer.err
    with pytest.raises(ServiceError, match=r"is no web address|can't be reached"):
        Service("http://[broken/").meet()


@pytest.mark.parametrize("body", ["queries=1", "queries={", "extend={}", 'queries={"q0":{}}', "x" * (2 << 20)])
def test_the_server_refuses_what_is_no_request(served: str, body: str) -> None:
    import httpx

    response = httpx.post(served, content=body, headers={"Content-Type": "application/x-www-form-urlencoded"})
    assert response.status_code in (200, 400, 413) and "Traceback" not in response.text
    assert httpx.get(served).json()["versions"] == ["0.2"]
