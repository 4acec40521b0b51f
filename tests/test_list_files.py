"""Lists for others: `find --write`, by the ending of the file's name."""

from __future__ import annotations

import csv
import json
import os
import zipfile
from collections.abc import Callable
from html.parser import HTMLParser
from pathlib import Path
from urllib.parse import unquote_to_bytes

import pytest
from defusedxml.ElementTree import fromstring
from openpyxl import load_workbook

from tests.conftest import SHELVES, Collection

Tree = Callable[..., Collection]
_STRANGE = (
    "Films/=1+1 (1990).mkv",
    "Films/<b>a|b</b> (1991).mkv",
    "Films/a\nb (1992).mkv",
    "Films/Kelp \udcff (1993).mkv",
)
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"


@pytest.fixture
def strange(tree: Tree) -> Collection:
    """Return a collection of names that mean something in other formats."""
    collection = tree([*_STRANGE, "Designs/Gull.pes", "Films/Tern (2001).mkv"], SHELVES)
    collection.ok("scan")
    return collection


def _written(collection: Collection, name: str, *words: str) -> Path:
    path = collection.root.parent / name
    collection.ok("find", "--write", str(path), *words)
    return path


def _paths(collection: Collection) -> set[str]:
    return {item["path"] for item in collection.ok("find", "--json").lines}


def _odf_rows(path: Path) -> list[list[str | float]]:
    with zipfile.ZipFile(path) as packed:
        assert packed.namelist()[0] == "mimetype"
        assert packed.getinfo("mimetype").compress_type == zipfile.ZIP_STORED
        content = fromstring(packed.read("content.xml"))
    rows = []
    for row in content.iter(f"{_TABLE}table-row"):
        cells = row.findall(f"{_TABLE}table-cell")
        rows.append([float(c.get(f"{_OFFICE}value")) if f"{_OFFICE}value" in c.attrib else _shown(c) for c in cells])
    return rows


def _shown(cell: object) -> str:
    return "".join(cell.itertext())  # type: ignore[attr-defined]


def test_tables_hold_what_was_found_as_texts_and_numbers(strange: Collection) -> None:
    columns = ("--columns", "path,year,size")
    books: dict[str, dict[str, object]] = {}
    with _written(strange, "a.csv", *columns).open(encoding="utf-8-sig", newline="") as file:
        rows = list(csv.reader(file))
    books["csv"] = {path: year for path, year, _ in rows[1:]}
    sheet = load_workbook(_written(strange, "a.xlsx", *columns)).active
    assert sheet is not None
    books["xlsx"] = {str(path): year for path, year, _ in sheet.iter_rows(min_row=2, values_only=True)}
    books["ods"] = {str(path): year for path, year, _ in _odf_rows(_written(strange, "a.ods", *columns))[1:]}
    books["json"] = {one["path"]: one["year"] for one in json.loads(_written(strange, "a.json", *columns).read_text())}
    for form, found in books.items():
        assert found.keys() == _paths(strange), form
        assert str(found["Films/Tern (2001).mkv"]).removesuffix(".0") == "2001", form
    assert all(isinstance(books[form]["Films/Tern (2001).mkv"], int | float) for form in ("xlsx", "ods", "json"))


def test_a_page_and_markdown_take_names_as_text(strange: Collection) -> None:
    page = _Links()
    page.feed(_written(strange, "a.html").read_text())
    assert "b" not in page.tags
    assert {os.fsdecode(unquote_to_bytes(link)) for link in page.links if link != "data:,"} == {
        os.path.join("collection", path) for path in (*_STRANGE, "Designs/Gull.pes", "Films/Tern (2001).mkv")
    }
    lines = _written(strange, "a.md", "--columns", "path,year").read_text().splitlines()
    assert len(lines) == 2 + len(_paths(strange))
    assert all(line.replace("\\|", "").count("|") == 3 for line in lines)


def test_play_lists_hold_what_plays(strange: Collection) -> None:
    answer = strange.ok("find", "--write", str(strange.root.parent / "a.xspf"), "--json")
    assert answer.json["left"] == 1  # the design
    root = fromstring((strange.root.parent / "a.xspf").read_bytes())
    places = [one.text or "" for one in root.iter("{http://xspf.org/ns/0/}location")]
    assert {os.fsdecode(unquote_to_bytes(place)) for place in places} == {
        f"collection/{path}" for path in (*_STRANGE, "Films/Tern (2001).mkv")
    }
    lines = _written(strange, "a.m3u8").read_bytes().split(b"\n")
    assert all((strange.root.parent / os.fsdecode(one)).is_file() for one in lines if one and not one.startswith(b"#"))


def test_a_list_of_paths_is_taken_back(strange: Collection) -> None:
    path = _written(strange, "a.txt", "kind", "is", "movie")
    found = strange.ok("find", "--from", str(path), "--json").lines
    assert {item["path"] for item in found} == {
        i["path"] for i in strange.ok("find", "kind", "is", "movie", "--json").lines
    }


def test_no_file_is_replaced_unasked(strange: Collection) -> None:
    path = _written(strange, "a.md")
    before = path.read_bytes()
    for words, said in (
        ((str(path),), "is there already"),
        (("a.doc",), "there are .csv"),
        (("no/such/a.md",), "There is no folder"),
    ):
        assert said in strange.ok("find", "tern", "--write", *words, code=2).err
    assert path.read_bytes() == before
    strange.ok("find", "tern", "--write", str(path), "--force")
    assert path.read_bytes() != before


class _Links(HTMLParser):
    """The tags of a page, and its links."""

    def __init__(self) -> None:
        super().__init__()
        self.tags: set[str] = set()
        self.links: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.add(tag)
        self.links += [value or "" for name, value in attrs if name == "href"]
