"""The catalogue's life: older ones are brought up, damaged ones refused; how values and labels are written."""

from __future__ import annotations

import json
import os
import re
import signal
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.catalogue import tables
from lazy_magpie.change.records import decode_line, encode_line
from lazy_magpie.fields import FIELDS, FieldType, shown, value_of
from lazy_magpie.formatting import bitrate_text, bytes_text, count_text, duration_text, size_text
from lazy_magpie.labels import label
from lazy_magpie.model import Kind, id_number, id_text, reason_of
from lazy_magpie.suggest import nearest
from tests.conftest import Collection

Tree = Callable[..., Collection]


def _older(root: Path) -> Path:
    """Take a catalogue back to what version 1 of it was."""
    path = root / ".magpie" / "catalogue.db"
    path.unlink()
    for file in path.parent.glob("catalogue.db-*"):
        file.unlink()
    with sqlite3.connect(path) as db:
        db.executescript(f"{tables.TABLES} PRAGMA user_version = 1;")
        db.execute("INSERT INTO meta VALUES ('scan', '1')")
        db.execute("INSERT INTO folder VALUES (1, '', 1)")
        db.execute("INSERT INTO file VALUES (1, 1, 'Kelp (2001).mkv', 15, 1, 1, 1, 0, 77, 'main')")
        fields = json.dumps({"title": "Kelp", "year": 2001})
        db.execute("INSERT INTO item VALUES (77, 1, 'movie', 'clear', 0.9, ?, '{}', '[]', 'kelp')", (fields,))
    db.close()
    return path


def test_an_older_catalogue_is_brought_up_and_kept_beside(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    path = _older(collection.root)
    collection.ok("scan")
    (item,) = collection.ok("find", "year", "is", "2001", "--json").lines
    assert item["id"] == id_text(77)
    assert path.with_name("catalogue.db.version-1").exists()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (tables.VERSION,)
    db.close()


def test_an_older_catalogue_answers_before_any_scan(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    _older(collection.root)
    (item,) = collection.ok("find", "kelp", "year", "is", "2001", "--json").lines
    assert item["id"] == id_text(77)


def test_a_newer_catalogue_is_left_alone(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    path = collection.root / ".magpie" / "catalogue.db"
    with sqlite3.connect(path) as db:
        db.execute(f"PRAGMA user_version = {tables.VERSION + 1}")
    db.close()
    before = path.read_bytes()
    assert "was written by a newer magpie" in collection.ok("scan", code=3).err
    assert path.read_bytes() == before


def test_a_damaged_catalogue_is_one_sentence(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    for file in (collection.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    (collection.root / ".magpie" / "catalogue.db").write_bytes(b"no database at all" * 100)
    answer = collection.ok("scan", code=3)
    assert "made anew by “magpie scan”" in answer.err and answer.err.count("\n") == 1


def test_a_list_is_served_by_the_installed_program(tmp_path: Path) -> None:
    import httpx

    (tmp_path / "list.csv").write_text("kind,title,year\nmovie,The Tern Watchers,1985\n")
    command = [str(Path(sys.executable).with_name("magpie")), "titles", "serve", "list.csv", "--port", "0", "--json"]
    server = subprocess.Popen(command, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert server.stdout
    told = json.loads(server.stdout.readline())
    query = {"queries": json.dumps({"q0": {"query": "tern watchers"}})}
    (result,) = httpx.post(told["url"], data=query).json()["q0"]["result"]
    assert told["titles"] == 1 and result["name"] == "The Tern Watchers" and result["match"] is True
    server.send_signal(signal.SIGINT)
    _, errors = server.communicate(timeout=20)
    assert server.returncode == 0 and "Traceback" not in errors


# --- how things are written ------------------------------------------------------------------------------------------


@given(st.integers(1, 2**53))
def test_ids_are_read_back(number: int) -> None:
    assert id_number(id_text(number)) == number


@given(st.dictionaries(st.text(max_size=8), st.one_of(st.integers(), st.text(max_size=20), st.booleans()), max_size=6))
def test_a_journal_record_is_read_back_and_knows_any_flipped_byte(record: dict[str, Any]) -> None:
    line = encode_line(record)
    assert decode_line(line) == record
    for at in range(9, len(line) - 1, 3):
        damaged = bytearray(line)
        damaged[at] ^= 0x10
        assert decode_line(bytes(damaged)) != record


@pytest.mark.parametrize(
    ("function", "value", "text"),
    [
        (size_text, 0, "0"), (bytes_text, 1, "1 byte"), (bytes_text, 29, "29 bytes"), (bytes_text, 1000, "1.0K"),
        (size_text, 1023, "1.0K"), (size_text, 1536, "1.5K"), (size_text, 700 << 20, "700M"),
        (size_text, 4 << 30, "4.0G"), (bitrate_text, 192_000, "192k"), (bitrate_text, 4_200_000, "4.2M"),
        (bitrate_text, 900, "900"), (duration_text, 6127, "1:42:07"), (duration_text, 65, "1:05"),
    ],
)  # fmt: skip
def test_sizes_rates_and_lengths(function: Callable[[int], str], value: int, text: str) -> None:
    assert function(value) == text


@pytest.mark.parametrize(
    ("field", "word", "value"),
    [("size", "700M", 700 << 20), ("size", "1.5k", 1536), ("bitrate", "192k", 192_000), ("length", "1:42:07", 6127),
     ("length", "95", 95), ("lossless", "yes", 1), ("lossless", "no", 0), ("year", "1987", 1987)],
)  # fmt: skip
def test_what_a_person_writes_is_read(field: str, word: str, value: float) -> None:
    assert value_of(FIELDS[field], word) == value
    if FIELDS[field].type is not FieldType.FLAG:
        assert re.sub(r"\W", "", shown(field, value))


@pytest.mark.parametrize(
    ("kind", "fields", "text"),
    [
        (Kind.MOVIE, {"title": "Kelp", "year": 2001}, "Kelp (2001)"),
        (Kind.EPISODE, {"show": "Dockside", "season": 1, "episode": 2, "last_episode": 3}, "Dockside S01E02-E03"),
        (Kind.EPISODE, {"show": "Report", "air_date": "2019-03-21"}, "Report 2019-03-21"),
        (Kind.TRACK, {"artist": "Ida Marrow", "title": "Ebb"}, "Ida Marrow - Ebb"),
        (Kind.FONT, {"family": "Gullwick Sans"}, "Gullwick Sans"),
        (Kind.JUNK, {}, ""),
    ],
)
def test_labels(kind: Kind, fields: dict[str, Any], text: str) -> None:
    assert label(kind, fields) == text


def test_small_words() -> None:
    assert count_text(1, "file") == "1 file" and count_text(1240, "file") == "1,240 files"
    assert reason_of("bare year: 1985 may be it") == reason_of("bare year") == "bare year"
    assert nearest("taht", ["that", "this"]) == "; did you mean “that”?"
    assert nearest("zzz", ["that"], "!") == "!"
    assert os.sep == "/" or os.name == "nt"


def test_folders_one_in_the_other_are_scanned_once(tree: Callable[..., Collection]) -> None:
    collection = tree(["Films/Kelp (2001)/Kelp (2001).mkv", "Films/Hawser (1964).mkv"])
    words = ("Films", "Films/Kelp (2001)", "Films/Kelp (2001)/Kelp (2001).mkv")
    assert collection.ok("scan", *words, "--json").json["new"] == 2
