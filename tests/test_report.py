"""The report: its numbers, its page, its text; and the report of one change."""

from __future__ import annotations

import csv
import itertools
import json
import re
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from lazy_magpie.report.charts import COLOURS
from lazy_magpie.report.treemap import Box, boxes
from tests.conftest import CONFIG, SHELVES, Collection, Look, accessible, needs_chromium

Tree = Callable[..., Collection]


def _tables(collection: Collection, *words: str) -> dict[str, list[dict[str, Any]]]:
    return {table["table"]: table["rows"] for table in collection.ok("report", "--json", *words).lines}


@pytest.fixture
def club(demo: Collection) -> Collection:
    """Return the demo collection, scanned."""
    demo.ok("start")
    demo.ok("scan")
    return demo


def test_its_numbers_are_those_of_find(club: Collection) -> None:
    tables = _tables(club)
    for one in club.ok("find", "--total", "--json").lines:
        rows = tables[f"by-{one['by']}"]
        name = one["name"] or "everything"
        assert {**one, one["by"]: name} | next(row for row in rows if row[one["by"]] == name) == {
            **one,
            one["by"]: name,
        }
    items = club.ok("find", "--json").lines
    size = sum(file["size"] for item in items for file in item["files"])
    assert sum(row["size"] for row in tables["space"]) == size == tables["growth"][-1]["so far"]
    assert sum(row["count"] for row in tables["ages"]) == len(items)
    films = [item for item in items if item["kind"] in ("movie", "episode")]
    assert sum(row["count"] for row in tables["lines"]) == len(films)
    songs = [item for item in items if item["kind"] == "track"]
    assert sum(row["count"] for row in tables["bitrates"]) == len(songs)
    assert {row["hoop"]: row["count"] for row in tables["hoops"]} == {
        hoop: sum(item["facts"].get("hoop") == hoop for item in items if item["kind"] == "design")
        for hoop in {item["facts"].get("hoop") for item in items if item["kind"] == "design"}
    }
    doubtful = sum(item["state"] == "doubtful" for item in items)
    assert next(row["count"] for row in tables["needs"] if row["what"] == "in doubt") == doubtful


def test_csv_and_page_and_text_say_the_same(club: Collection, tmp_path: Path) -> None:
    tables = _tables(club)
    club.ok("report", str(tmp_path / "club.html"), "--csv", str(tmp_path / "numbers"))
    files = {path.stem: path for path in (tmp_path / "numbers").iterdir()}
    assert set(files) == set(tables)
    for name, rows in tables.items():
        with files[name].open(encoding="utf-8-sig", newline="") as file:
            read = list(csv.DictReader(file))
        assert [list(map(str, row.values())) for row in rows] == [list(row.values()) for row in read]
    page = (tmp_path / "club.html").read_text("utf-8")
    assert page.count("<svg role=") == page.count("</svg>") > 8
    ids = re.findall(r' id="([^"]+)"', page)
    assert len(ids) == len(set(ids))
    text = club.ok("report").out
    for row in tables["by-kind"]:
        assert re.search(rf"{row['kind']} +{row['count']:,} ", text) or len(tables["by-kind"]) > 12
    assert "█" in text and "\x1b" not in text
    coloured = club.ok("report", "--colour", "always").out
    assert re.sub(r"\x1b\[[0-9;]*m", "", coloured) == text


def test_what_is_missing_and_below_standard_is_said(tree: Tree) -> None:
    standards = "[standard.movie]\nlines = 1080\n[player.lounge]\n"
    paths = [f"Series/Kelp/Season 01/Kelp S01E{number:02}.mkv" for number in (1, 2, 5)]
    collection = tree([*paths, "Films/Tern (2001)/Tern (2001) 720p.mkv"], SHELVES + standards)
    collection.ok("scan")
    tables = _tables(collection)
    assert tables["shows"] == [{"show": "Kelp", "season": 1, "there": 3, "missing": 2, "which": "S01E03, S01E04"}]
    assert {row["how"]: row["count"] for row in tables["standards"]} == {"met": 0, "below": 0, "not known": 1}
    assert any(row["see"] == "magpie check --rule missing-episode" for row in tables["needs"])
    assert tables["readings"] == [{"read": "never", "files": 4, "size": sum(map(len, paths)) + 38}]


def test_since_a_day_says_what_came_and_what_was_changed(tree: Tree) -> None:
    collection = tree(["Heap/Tern (2001).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    tables = _tables(collection, "--since", "2026-01-01")
    assert tables["arrived"] == [{"kind": "movie", "count": 1, "size": 20}]
    assert [row["command"] for row in tables["changes"]] == ["tidy"]
    assert "changes" not in _tables(collection, "--since", "2199-01-01")
    assert "2026-03-21" in collection.ok("report", "--since", "last week", code=2).err


def test_an_empty_collection_has_a_report(tree: Tree, tmp_path: Path) -> None:
    collection = tree([], SHELVES)
    collection.ok("scan")
    collection.ok("report", str(tmp_path / "empty.html"))
    assert "Nothing is catalogued" in (tmp_path / "empty.html").read_text("utf-8")
    assert collection.run("report", str(tmp_path / "empty.html")).code == 2
    assert collection.run("report", str(tmp_path / "x.pdf")).code == 2


@needs_chromium
def test_the_page_is_accessible_and_holds_hostile_names_as_text(tree: Tree, tmp_path: Path, look: Look) -> None:
    strange = ["<script>document.title='hit'<", "$x_1$ & co", 'a"b', "Kelp \udcff", "ﷺ 漢字 😀"]
    paths = [f"Music/{name}/Record/0{at} Song {at}.mp3" for at, name in enumerate(strange, start=1)]
    collection = tree([*paths, "Films/<svg onload=x> (1990).mkv"], CONFIG)
    collection.ok("scan")
    collection.ok("report", str(tmp_path / "club.html"))
    for scheme in ("light", "dark"):
        page = look((tmp_path / "club.html").as_uri(), tmp_path.as_uri(), color_scheme=scheme)
        accessible(page)
        assert page.title() != "hit" and page.locator("main script, svg script").count() == 0
    assert collection.ok("report", "--text").code == 0


@needs_chromium
def test_the_demo_report_is_accessible(club: Collection, tmp_path: Path, look: Look) -> None:
    club.ok("report", str(tmp_path / "club.html"), "--since", "2020-01-01")
    accessible(look((tmp_path / "club.html").as_uri(), tmp_path.as_uri()))


# --- one change ------------------------------------------------------------------------------------------------------


def test_a_change_is_reported_with_where_each_file_is_now(tree: Tree, tmp_path: Path) -> None:
    collection = tree(["Heap/Tern (2001).mkv", "Heap/Tern (2001).srt", "Heap/Gull (2002).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    moved = {line["from"]: line for line in collection.ok("report", "--change", "1", "--json").lines}
    assert set(moved) >= {"Heap/Tern (2001).mkv", "Heap/Tern (2001).srt", "Heap/Gull (2002).mkv"}
    assert all(line["now"] == line["to"] and line["state"] == "done" for line in moved.values())
    collection.ok("move", "Films/Tern (2001)", "Films/Old", "--now")  # a whole folder goes on
    (collection.root / moved["Heap/Gull (2002).mkv"]["now"]).unlink()
    later = {line["from"]: line["now"] for line in collection.ok("report", "--change", "1", "--json").lines}
    assert later["Heap/Gull (2002).mkv"] == ""
    for name in ("Tern (2001).mkv", "Tern (2001).srt"):
        assert later[f"Heap/{name}"].startswith("Films/Old/") and (collection.root / later[f"Heap/{name}"]).exists()
    folder = collection.ok("report", "--change", "2", "--json").lines
    assert {line["now"] for line in folder} >= {later["Heap/Tern (2001).mkv"], later["Heap/Tern (2001).srt"]}
    collection.ok("undo", "2")
    assert {line["state"] for line in collection.ok("report", "--change", "2", "--json").lines} == {"undone"}
    assert collection.run("report", "--change", "99").code == 2


def test_a_name_that_another_file_took_later_is_not_followed(tree: Tree) -> None:
    collection = tree(["Films/a.mkv", "Films/b.mkv"], SHELVES)
    collection.ok("scan")
    for path, letters in (("Films/a.mkv", "ax"), ("Films/x.mkv", "xy"), ("Films/b.mkv", "bx")):
        collection.ok("rename", path, "--swap", *letters, "--now")
    (line,) = [line for line in collection.ok("report", "--change", "1", "--json").lines if line["did"] == "move"]
    assert (line["from"], line["to"], line["now"]) == ("Films/a.mkv", "Films/x.mkv", "Films/y.mkv")
    (line,) = [line for line in collection.ok("report", "--change", "3", "--json").lines if line["did"] == "move"]
    assert line["now"] == "Films/x.mkv"


def test_every_kind_of_step_says_where_its_files_are(tree: Tree) -> None:
    collection = tree(["Films/Tern (2001).mkv", "Films/Gull (2002).mkv"], SHELVES)
    with zipfile.ZipFile(collection.root / "papers.zip", "w") as packed:
        packed.writestr("in/one.txt", "one")
        packed.writestr("two.txt", "two")
    collection.ok("scan")
    for words in (
        ("tag", "put", "seen", "Films", "--new"),
        ("settle", "Films/Gull (2002).mkv", "--set", "year=2003"),
        ("unpack", "papers.zip", "--now"),
        ("rename", "Films/Tern (2001).mkv", "--append", " x", "--now"),
        ("rename", "Films/Tern (2001) x.mkv", "--free"),
        ("hold", "Films/Gull (2002).mkv", "--now"),
    ):
        collection.run(*words)
    changes = [change["change"] for change in collection.ok("history", "--json").lines]
    lines = [line for change in changes for line in collection.ok("report", "--change", str(change), "--json").lines]
    assert {line["did"] for line in lines} >= {"tag", "settle", "unpack", "move", "hold"}
    for line in lines:
        is_gone = line["did"] == "hold" or "Gull" in line["from"]
        assert bool(line["now"]) != is_gone, line
    assert sum(line["did"] == "unpack" for line in lines) == 2


def test_the_sheet_of_a_change_is_one_to_fill_in(tree: Tree, tmp_path: Path) -> None:
    collection = tree(["Heap/Tern (2001).mkv", "Heap/Gull (2002).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    sheet, page, table = (str(tmp_path / f"change.{ending}") for ending in ("xlsx", "html", "csv"))
    for file in (sheet, page, table):
        collection.ok("report", "--change", "1", file)
        assert collection.run("report", "--change", "1", file).code == 2
    book = load_workbook(sheet)
    heads = [cell.value for cell in book["Items"][1]]
    came = {row[heads.index("came from")].value for row in book["Items"].iter_rows(min_row=2)}
    assert came == {"Heap/Tern (2001).mkv", "Heap/Gull (2002).mkv"}
    assert len(list(book["Files"].iter_rows(min_row=2))) >= 2
    book["Items"].cell(2, heads.index("tags") + 1).value = "seen"
    book.save(sheet)
    collection.ok("sheet", "take", sheet, "--now", "--new")
    assert len(collection.ok("find", "tag", "is", "seen", "--json").lines) == 1
    text = Path(page).read_text("utf-8")
    assert "Heap/Tern (2001).mkv" in text and 'href="collection/Films/Tern' in text


# --- drawing ---------------------------------------------------------------------------------------------------------


@given(st.lists(st.floats(1, 1e12), min_size=1, max_size=60))
def test_a_treemap_fills_its_box_and_its_parts_lie_side_by_side(sizes: list[float]) -> None:
    sizes.sort(reverse=True)
    found = boxes(sizes, Box(0, 0, 100, 60))
    scale = 6000 / sum(sizes)
    assert all(abs(box.width * box.height - size * scale) < 1e-6 * 6000 for box, size in zip(found, sizes, strict=True))
    assert all(box.x >= -1e-9 and box.x + box.width <= 100.001 and box.y + box.height <= 60.001 for box in found)
    for one, other in itertools.combinations(found, 2):
        wide = min(one.x + one.width, other.x + other.width) - max(one.x, other.x)
        high = min(one.y + one.height, other.y + other.height) - max(one.y, other.y)
        assert wide < 1e-3 or high < 1e-3


_SEEN_BY = {
    "all": np.eye(3),
    "no red": np.array([[0.152, 1.053, -0.205], [0.115, 0.786, 0.099], [-0.004, -0.048, 1.052]]),
    "no green": np.array([[0.367, 0.861, -0.228], [0.280, 0.673, 0.047], [-0.012, 0.043, 0.969]]),
    "no blue": np.array([[1.256, -0.077, -0.179], [-0.078, 0.931, 0.148], [0.005, 0.691, 0.304]]),
}
"""How light in linear RGB is seen by eyes that lack a kind of cones (Machado, Oliveira, Fernandes 2009, severity 1)."""
_TO_XYZ = np.array([[0.4124, 0.2126, 0.0193], [0.3576, 0.7152, 0.1192], [0.1805, 0.0722, 0.9505]])
_WHITE = np.array([0.9505, 1, 1.089])


def _lab(light: np.ndarray) -> np.ndarray:
    xyz = light @ _TO_XYZ / _WHITE
    f = np.where(xyz > 0.008856, np.cbrt(np.clip(xyz, 0, None)), 7.787 * xyz + 16 / 116)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)


@pytest.mark.parametrize("eyes", _SEEN_BY)
def test_colours_are_told_apart_by_all_eyes(eyes: str) -> None:
    rgb = np.array([[int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)] for colour in COLOURS])
    light = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    lab = _lab(np.clip(light @ _SEEN_BY[eyes].T, 0, 1))
    distances = [float(np.linalg.norm(a - b)) for a, b in itertools.combinations(lab, 2)]
    assert min(distances) > 12  # a just noticeable difference is about 2.3


def test_json_is_one_object_a_table(club: Collection) -> None:
    for line in club.ok("report", "--json").out.splitlines():
        assert set(json.loads(line)) == {"table", "title", "rows"}
