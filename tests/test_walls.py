"""Walls of pictures: `find --page`, `find --folder` and `browse`, looked at in Chromium where there is one."""

from __future__ import annotations

import http.client
import json
import os
import re
import shutil
import subprocess
import sys
import threading
from collections.abc import Callable
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlsplit

import pytest
from PIL import Image

from lazy_magpie.report.picture_store import PictureStore
from tests.conftest import CONFIG, SHELVES, Collection, Look, accessible, browsing, needs_chromium

Tree = Callable[..., Collection]
_STRANGE = (
    "Films/<img src=x onerror=document.title='hit'> (1990).mkv",
    "Films/</script><script>document.title='hit'</script> (1991).mkv",
    'Films/it\'s "quoted" & $1 `ls` (1992).mkv',
    "Films/Kelp \udcff (1993).mkv",
    "Films/a\nb (1994).mkv",
)


def _scanned(tree: Tree, paths: tuple[str, ...] = (), config: str = SHELVES) -> Collection:
    collection = tree(paths, config)
    collection.ok("scan")
    return collection


def _started(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")


def _rows(page: str) -> list[dict[str, Any]]:
    """Return the rows that a page in one file holds."""
    parts = re.findall(r"^magpie\.rows\((.*)\);$", page, re.MULTILINE)
    return [row for part in parts for row in json.loads(part)]


def _asked(url: str, method: str = "GET", **headers: str) -> tuple[int, bytes, dict[str, str]]:
    address = urlsplit(url)
    connection = http.client.HTTPConnection(address.hostname or "", address.port or 0, timeout=60)
    connection.request(
        method, f"{address.path}?{address.query}", headers={k.replace("_", "-"): v for k, v in headers.items()}
    )
    answer = connection.getresponse()
    return answer.status, answer.read(), dict(answer.getheaders())


# --- what the pages hold ---------------------------------------------------------------------------------------------


def test_a_page_in_one_file_holds_all_that_was_found_with_its_pictures(demo: Collection, tmp_path: Path) -> None:
    _started(demo)
    page = tmp_path / "wall.html"
    told = demo.ok("find", "--page", str(page), "--json").json
    items = demo.ok("find", "--json").lines
    rows = _rows(page.read_text("utf-8"))
    assert told["items"] == len(rows) == len(items)
    assert {row["path"] for row in rows} == {item["path"] for item in items}
    assert told["pictures"] == sum("picture" in row for row in rows) > len(rows) / 2
    for kind in ("movie", "design", "track", "picture", "kit"):
        assert any("picture" in row for row in rows if row["kind"] == kind), kind
    assert demo.run("find", "--page", str(page)).code == 2  # it is there already
    assert demo.run("find", "--page", str(tmp_path / "wall.txt")).code == 2
    assert demo.run("find", "--page", str(tmp_path / "none" / "wall.html")).code == 2


def test_pictures_are_made_once_and_safe_to_delete(demo: Collection, tmp_path: Path) -> None:
    _started(demo)
    kept = demo.root / ".magpie/pictures/small"
    demo.ok("find", "--folder", str(tmp_path / "one"))
    times = {path: path.stat().st_mtime_ns for path in kept.rglob("*.webp")}
    demo.ok("find", "--folder", str(tmp_path / "two"))
    assert times == {path: path.stat().st_mtime_ns for path in kept.rglob("*.webp")}
    shutil.rmtree(kept)
    demo.ok("find", "--folder", str(tmp_path / "three"))
    sizes = [sorted(p.stat().st_size for p in (tmp_path / n).rglob("*.webp")) for n in ("one", "two", "three")]
    assert sizes[0] == sizes[1] == sizes[2]
    assert demo.run("find", "--folder", str(tmp_path / "three")).code == 2


def test_pictures_take_no_more_than_their_limit(tmp_path: Path) -> None:
    store = PictureStore(str(tmp_path), most=1_000)
    for number in range(20):
        store._keep(f"{number:032x}", b"x" * 100)
        os.utime(store.path(f"{number:032x}"), (number, number))
    store.prune({f"{0:032x}"})
    left = [number for number in range(20) if store.has(f"{number:032x}")]
    assert sum(path.stat().st_size for path in tmp_path.rglob("*.webp")) <= 1_000
    assert left[0] == 0 and left[1:] == list(range(20 - len(left) + 1, 20))  # the oldest go, but none that is needed


def test_damage_costs_one_picture_and_uses_all_processors(tree: Tree, tmp_path: Path) -> None:
    collection = tree([], CONFIG)
    folder = collection.root / "Pictures"
    folder.mkdir()
    for number in range(40):
        Image.new("RGB", (300, 200), (number * 6, 90, 120)).save(folder / f"Kite {number}.png")
    (folder / "Huge.png").write_bytes(  # a head that says 60,000 by 60,000 points
        b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\xea\x60\0\0\xea\x60\x08\x02\0\0\0" + b"\0" * 60
    )
    (folder / "Cut.jpg").write_bytes(b"\xff\xd8\xff\xe0" + b"\0" * 30)
    collection.ok("scan")
    told = collection.ok("find", "Pictures", "--page", str(tmp_path / "wall.html"), "--json").json
    assert (told["items"], told["pictures"]) == (42, 40)
    again = collection.ok("find", "Pictures", "--page", str(tmp_path / "wall.html"), "--force", "--json").json
    assert again["pictures"] == 40


def test_too_many_for_one_file_is_refused_with_advice(tree: Tree, tmp_path: Path, monkeypatch: Any) -> None:
    collection = _scanned(tree, tuple(f"Films/Kelp {number} (1990).mkv" for number in range(12)))
    monkeypatch.setattr("lazy_magpie.services.wall.MOST_IN_ONE", 10)
    monkeypatch.setattr("lazy_magpie.report.wall_page.MOST_IN_ONE", 10)
    refused = collection.ok("find", "--page", str(tmp_path / "wall.html"), code=2)
    assert "--folder" in refused.err and "browse" in refused.err
    assert not (tmp_path / "wall.html").exists()
    collection.ok("find", "--folder", str(tmp_path / "wall"))


# --- in the browser --------------------------------------------------------------------------------------------------


@needs_chromium
@pytest.mark.parametrize("form", ["page", "folder"])
def test_the_wall_is_searched_filtered_and_walked_by_keys(
    demo: Collection, tmp_path: Path, look: Look, form: str
) -> None:
    _started(demo)
    demo.ok("tag", "put", "kites", "Kits")
    out = tmp_path / ("wall.html" if form == "page" else "wall")
    demo.ok("find", f"--{form}", str(out))
    file = out if form == "page" else out / "index.html"
    page = look(file.as_uri(), tmp_path.as_uri())
    items = demo.ok("find", "--json").lines
    page.wait_for_selector("#kind option[value=movie]", state="attached")
    accessible(page)
    page.keyboard.press("/")
    page.keyboard.type("salt")
    wanted = [item for item in items if "salt" in item["path"].lower()]
    page.wait_for_timeout(300)
    assert page.locator(".tile").count() == len(wanted) > 0
    page.locator("#words").fill("")
    page.locator("#kind").select_option("design")
    page.wait_for_timeout(100)
    assert page.locator(".tile").count() == sum(item["kind"] == "design" for item in items)
    page.locator("#kind").select_option("")
    page.locator("#tag").select_option("kites")
    page.wait_for_timeout(100)
    assert page.locator(".tile").count() == sum("kites" in item["tags"] for item in items) > 0
    page.locator("#tag").select_option("")
    page.locator("#fact").select_option("hoop")
    page.wait_for_timeout(100)
    hoop = page.locator("#value").input_value()
    assert page.locator(".tile").count() == sum(item["facts"].get("hoop") == hoop for item in items) > 0
    page.locator("#fact").select_option("")
    page.locator("#group").select_option("shelf")
    page.wait_for_timeout(100)
    assert page.locator(".head").first.inner_text().startswith("designs")
    accessible(page)

    page.locator("[data-cell='0']").focus()
    page.keyboard.press("ArrowRight")
    assert page.evaluate("document.activeElement.dataset.cell") == "1"
    page.keyboard.press("End")
    last = int(page.evaluate("document.activeElement.dataset.cell"))
    assert last == len(items) - 1
    page.keyboard.press("Home")
    page.keyboard.press("Enter")
    assert page.locator("#item").is_visible()
    page.wait_for_selector("#item li")
    accessible(page)
    page.keyboard.press("Escape")
    assert page.evaluate("document.activeElement.dataset.cell") == "0"


@needs_chromium
def test_what_is_selected_is_taken_by_commands(demo: Collection, tmp_path: Path, look: Look) -> None:
    _started(demo)
    demo.ok("find", "Heap", "--page", str(tmp_path / "wall.html"))
    page = look((tmp_path / "wall.html").as_uri(), tmp_path.as_uri(), color_scheme="dark")
    accessible(page)
    for cell in (0, 2, 3):
        page.locator(f"[data-cell='{cell}']").focus()
        page.keyboard.press("Space")
    names = [page.locator(f"[data-cell='{cell}']").get_attribute("title") for cell in (0, 2, 3)]
    page.locator("#as-list").click()
    listed = page.locator("#text-body").input_value()
    accessible(page)
    page.keyboard.press("Escape")
    page.locator("#as-words").click()
    words = page.locator("#text-body").input_value()
    (tmp_path / "chosen.txt").write_text(listed, "utf-8")
    by_list = demo.ok("find", "--from", str(tmp_path / "chosen.txt"), "--json").lines
    command = Path(sys.executable).with_name("magpie")
    by_words = subprocess.run(
        f"{command} -C {demo.root} find --json {words}", shell=True, capture_output=True, check=True
    )
    assert {item["path"] for item in by_list} == set(names)
    assert [json.loads(line)["path"] for line in by_words.stdout.splitlines()] == [item["path"] for item in by_list]


@needs_chromium
@pytest.mark.parametrize("form", ["page", "folder", "browse"])
def test_hostile_names_and_tags_are_text(tree: Tree, tmp_path: Path, look: Look, form: str) -> None:
    collection = _scanned(tree, _STRANGE)
    collection.ok("tag", "put", "<b>x</b>", "Films", "--new")
    if form == "browse":
        with browsing(collection) as url:
            _strange_seen(look(url, url), collection)
            said = look(f"{url}?words={quote('title is <script>document.title=1</script>')}", url)
            assert "0 items" in said.locator("#count").inner_text()
        return
    out = tmp_path / ("wall.html" if form == "page" else "wall")
    collection.ok("find", f"--{form}", str(out))
    _strange_seen(look((out if form == "page" else out / "index.html").as_uri(), tmp_path.as_uri()), collection)


def _strange_seen(page: Any, collection: Collection) -> None:
    page.wait_for_selector(".tile")
    assert page.locator(".tile").count() == len(_STRANGE)
    assert set(page.evaluate("[...document.querySelectorAll('.tile')].map(tile => tile.title)")) == {
        item["path"] for item in collection.ok("find", "--json").lines
    }
    for cell in range(len(_STRANGE)):
        page.locator(f"[data-cell='{cell}']").click()
        page.wait_for_selector("#item li")
        page.keyboard.press("Escape")
    assert page.title() != "hit"
    assert page.locator(".tile b, .tile script, #item-body script").count() == page.locator(".about b").count()
    page.locator("#tag").select_option("<b>x</b>")


@needs_chromium
def test_a_page_prints_what_it_shows(demo: Collection, tmp_path: Path, look: Look) -> None:
    _started(demo)
    demo.ok("find", "--page", str(tmp_path / "wall.html"))
    page = look((tmp_path / "wall.html").as_uri(), tmp_path.as_uri())
    page.emulate_media(media="print")
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    assert page.locator(".tile").count() == len(demo.ok("find", "--json").lines)
    assert not page.locator("#tools").is_visible()


# --- live ------------------------------------------------------------------------------------------------------------


@needs_chromium
def test_browse_pages_and_searches_by_find_words(demo: Collection, look: Look) -> None:
    _started(demo)
    with browsing(demo) as url:
        page = look(url, url)
        accessible(page)
        page.locator("#words").fill("kind is movie year from 1960 to 1979")
        page.locator("[name=sort]").select_option("year")
        page.locator("#tools button").click()
        wanted = demo.ok(
            "find", "kind", "is", "movie", "year", "from", "1960", "to", "1979", "--sort", "year", "--json"
        )
        assert [tile.get_attribute("title") for tile in page.locator(".tile").all()] == [
            i["path"] for i in wanted.lines
        ]
        page.locator(".tile").first.click()
        assert "magpie hold" in page.locator("#item-body").inner_text()
        page.goto(f"{url}report")
        assert page.locator("svg").count() > 3
        accessible(page)
        page.goto(f"{url}?words=kynd+is+movie+and")
        assert page.locator("[role=alert]").is_visible()


def test_browse_is_for_who_knows_its_address_alone(tree: Tree) -> None:
    collection = _scanned(tree, tuple(f"Films/Kelp {number} (1990).mkv" for number in range(450)))
    before = {path: path.stat().st_mtime_ns for path in (collection.root / ".magpie").glob("catalogue.db")}
    with browsing(collection) as url:
        port = urlsplit(url).port
        status, body, headers = _asked(url)
        assert status == 200 and b"450 items" in body and b"page=3" in body
        assert (
            "'none'" in headers["Content-Security-Policy"]
            and "frame-ancestors 'none'" in headers["Content-Security-Policy"]
        )
        assert headers["Cross-Origin-Resource-Policy"] == "same-origin" and "Access-Control-Allow-Origin" not in headers
        third = _rows(_asked(f"{url}?page=3")[1].decode())
        assert [row["path"] for row in third] == [i["path"] for i in collection.ok("find", "--json").lines[400:]]
        for wrong in (
            _asked(f"http://127.0.0.1:{port}/"),
            _asked(f"http://127.0.0.1:{port}/{'x' * 24}/"),
            _asked(url, Host=f"evil.example:{port}"),
            _asked(url, Host="127.0.0.1"),
            _asked(url, Sec_Fetch_Site="cross-site"),
            _asked(f"{url}../../etc/passwd"),
            _asked(f"{url}picture/../../../catalogue.db"),
            _asked(f"{url}picture/{'g' * 32}"),
        ):
            assert wrong[0] == 404 and b"Kelp" not in wrong[1]
        for method in ("POST", "PUT", "DELETE", "PATCH", "OPTIONS"):
            assert _asked(url, method)[0] in (404, 405, 501)
        assert _asked(f"{url}?page=99999999&words=%22")[0] == 200
    assert before == {path: path.stat().st_mtime_ns for path in (collection.root / ".magpie").glob("catalogue.db")}


@needs_chromium
def test_a_page_from_elsewhere_reads_nothing_of_what_is_browsed(tree: Tree, tmp_path: Path, browser: Any) -> None:
    """A page that a person has open besides can't read the collection, not even where it knows the whole address."""
    collection = _scanned(tree, ("Films/Kelp (1990).mkv",))
    other = ThreadingHTTPServer(("127.0.0.1", 0), partial(QuietHandler, directory=str(tmp_path)))
    threading.Thread(target=other.serve_forever, daemon=True).start()
    (tmp_path / "other.html").write_text("<!doctype html><title>elsewhere</title><p>")
    read = """async ([url, mode]) => {
        try { return await (await fetch(url, {mode})).text() } catch (error) { return "refused" }
    }"""
    framed = """url => new Promise(done => {
        const frame = document.createElement("iframe")
        frame.onload = () => { try { done(frame.contentDocument.body.innerText) } catch (error) { done("refused") } }
        frame.src = url
        document.body.append(frame)
    })"""
    try:
        with browsing(collection) as url:
            for home in (f"http://localhost:{other.server_port}/other.html", "about:blank", "data:text/html,<p>"):
                page = browser.new_page()
                page.goto(home)
                for mode in ("cors", "no-cors", "same-origin"):
                    assert "Kelp" not in page.evaluate(read, [url, mode])
                assert "Kelp" not in (page.evaluate(framed, url) or "")
                page.close()
            page = browser.new_page()
            page.goto(url)
            assert "Kelp" in page.content()
            page.close()
    finally:
        other.shutdown()
        other.server_close()


class QuietHandler(SimpleHTTPRequestHandler):
    """Serves files without a word."""

    def log_message(self, format: str, *args: object) -> None:
        """Say nothing."""


@needs_chromium
def test_a_thing_that_is_opened_says_where_its_copies_are(tree: Tree, tmp_path: Path, look: Look) -> None:
    collection = tree(["Films/Kelp (1990).mkv", "Heap/kelp copy (1990).mkv", "Films/Tern (1991).mkv"], SHELVES)
    for path in ("Films/Kelp (1990).mkv", "Heap/kelp copy (1990).mkv"):
        (collection.root / path).write_bytes(b"\x1aE\xdf\xa3 one film" * 900)
    collection.ok("scan")
    collection.run("copies")
    collection.ok("find", "--page", str(tmp_path / "wall.html"))
    page = look((tmp_path / "wall.html").as_uri(), tmp_path.as_uri())
    for name, copy in (("Kelp", "Heap/kelp copy (1990).mkv"), ("Tern", "")):
        page.locator(f".tile[title='Films/{name} ({1990 + (name == 'Tern')}).mkv']").click()
        page.wait_for_selector("#item li")
        text = page.locator("#item-body").inner_text()
        assert copy in text if copy else "Heap" not in text
        page.keyboard.press("Escape")


# --- lists of paths --------------------------------------------------------------------------------------------------


def test_a_list_of_paths_stands_wherever_items_do(tree: Tree, tmp_path: Path) -> None:
    collection = _scanned(tree, (*_STRANGE, "Films/or (1995).mkv", "Films/Tern (2001).mkv", "Films/Gull (2002).mkv"))
    paths = [item["path"] for item in collection.ok("find", "--json").lines if "Gull" not in item["path"]]
    listed = tmp_path / "list.txt"
    listed.write_text("\n".join(paths) + "\n", "utf-8")
    found = collection.ok("find", "--from", str(listed), "--json").lines
    assert [item["path"] for item in found] == paths
    assert len(collection.ok("find", "year over 1994", "--from", str(listed), "--json", code=0).lines) <= len(paths)
    collection.ok("tag", "put", "seen", "--from", str(listed), "--new")
    assert len(collection.ok("find", "tag", "is", "seen", "--json").lines) == len(paths)
    plan = collection.ok("hold", "--from", str(listed), "--json").json
    assert len([step for step in plan["steps"] if step["do"] == "hold"]) == len(paths)
    moved = collection.ok("move", "--from", str(listed), "Films/Old", "--json").json
    assert sum(step["do"] == "move" for step in moved["steps"]) == len(paths)
    listed.write_bytes(
        b"\0".join(os.fsencode(str(collection.root / path)) for path in ("Films/Tern (2001).mkv",)) + b"\0"
    )
    assert len(collection.ok("show", "--from", str(listed), "--json").lines) == 1


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("Films/none.mkv\n", "line 1"),
        ("\n\n", "lists no paths"),
        ('"half\n', "quotes"),
        ("/etc/hostname\n", "not in the"),
    ],
)
def test_a_list_that_can_not_be_taken_is_refused_with_its_line(
    tree: Tree, tmp_path: Path, text: str, says: str
) -> None:
    collection = _scanned(tree, ("Films/Tern (2001).mkv",))
    listed = tmp_path / "list.txt"
    listed.write_text(text)
    for command in ("find", "hold", "check"):
        assert says in collection.ok(command, "--from", str(listed), code=2).err
    assert "can't be read" in collection.ok("find", "--from", str(tmp_path / "no such"), code=2).err
    assert "ITEMS" in collection.ok("hold", code=2).err


def test_very_many_paths_are_taken(tree: Tree, tmp_path: Path) -> None:
    paths = [f"Films/Kelp {number} (1990).mkv" for number in range(3_000)]
    collection = _scanned(tree, tuple(paths))
    listed = tmp_path / "list.txt"
    listed.write_text("\n".join(paths[:2_500]))
    assert len(collection.ok("find", "--from", str(listed), "--json").lines) == 2_500


# --- the other pages -------------------------------------------------------------------------------------------------


@needs_chromium
@pytest.mark.parametrize(
    "words",
    [
        ("copies", "--alike", "--page"),
        ("check", "--page"),
        ("find", "--write"),
    ],
)
def test_every_page_is_accessible_and_stands_alone(
    demo: Collection, tmp_path: Path, look: Look, words: tuple[str, ...]
) -> None:
    _started(demo)
    out = tmp_path / "page.html"
    demo.run(*words, str(out))
    for scheme in ("light", "dark"):
        accessible(look(out.as_uri(), tmp_path.as_uri(), color_scheme=scheme))
