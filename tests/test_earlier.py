"""What the version before wrote is taken over: its catalogue, journals, kept and saved plans, and a change half done.

`data/earlier/collection.tar.xz` is a collection that version 0.1 made: changes of all kinds applied, one taken back and
one done again, plans that wait, one saved as CSV, and a change cut off in its middle. `manifest.json` has for each path
(hex) its inode, time, mode and tag attribute, since an archive keeps no inodes: they are put into the new collection.
`data/earlier/steps.jsonl` has a journal record, or a row of a kept plan, of each shape that a step had.
"""

from __future__ import annotations

import json
import os
import sqlite3
import tarfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.change.codec import decode_step, step_record
from lazy_magpie.change.records import decode_line, encode_line
from lazy_magpie.errors import MagpieError
from lazy_magpie.paths import read_back
from lazy_magpie.step_codec import details_of, step_from
from tests.conftest import Collection

DATA = Path(__file__).parent / "data" / "earlier"
STEPS = [json.loads(line) for line in (DATA / "steps.jsonl").read_text().splitlines()]
ORIGINALS = {
    "Heap/The.Salt.Orchard.1987.1080p.BluRay.x264-BRINE.mkv",
    "Heap/The.Salt.Orchard.1987.1080p.BluRay.x264-BRINE.en.srt",
    "Heap/Harbour.Lamps.S01E01.720p.WEB.mkv",
    "Heap/Harbour.Lamps.S01E02.720p.WEB.mkv",
    "Heap/Harbour.Lamps.S01E03.720p.WEB.mkv",
    "Heap/Harbour.Lamps.S01E03.720p.WEB.en.srt",
    "Heap/Harbour.Lamps.S01E04.720p.WEB.mkv",
    "Heap/Caf\udce9/Paper.Gulls.1999.DVDRip.mkv",
    "Heap/Kite Weather (2004).mkv",
    "Heap/Copies/Kite Weather (2004).mkv",
    "Heap/Ebb.and.Flow.1975.DVDRip.mkv",
    "Heap/evening.m3u",
    "Games/sets/gull.bin",
    "Games/sets/gull.cue",
    "Films/Kite Weather (2004)/Kite Weather (2004) copy.mkv",
    "Downloads/fpc_gull_parade_papers.zip",
    "Downloads/fpc_gull_parade_elements.zip",
    "Downloads/fpc_rope_ladder_papers.zip",
    "Downloads/Low.Tide.Stories.1966.mkv",
    "plan.csv",
}
"""All files that the collection had before any change, or got since by other hands."""


def _leaves(value: Any) -> Iterator[object]:
    """Yield all texts and numbers in a JSON value that say anything, keys of layouts included."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from _leaves(inner)
            if "." in key:  # a member of an archive
                yield key
    elif isinstance(value, list):
        for inner in value:
            yield from _leaves(inner)
    elif value not in (None, "", 0, 1, False):
        yield read_back(value) if isinstance(value, str) else value


@pytest.mark.parametrize("one", STEPS, ids=lambda one: f"{one['where']} {one.get('record', {}).get('do', 'plan')}")
def test_a_step_of_before_is_read_whole(one: dict[str, Any]) -> None:
    if one["where"] == "journal":
        record = one["record"]
        step, details, item = decode_step(record), record.get("data", {}), record.get("item", 0)
    else:
        number, kind, source, target, why, group, item, *_, data = one["row"]
        details = json.loads(data)
        step = step_from(kind, details, number=number, source=source, target=target, why=why, group=group, item=item)
    assert (step.item, step.bundle) == ((item, 0) if item >= 0 else (0, -item))
    assert set(_leaves(details)) <= set(_leaves(details_of(step)))
    again = decode_line(encode_line(step_record(step)))
    assert again is not None
    back = decode_step(again)
    assert details_of(back) == details_of(step) and type(back) is type(step)


@pytest.fixture
def earlier(tmp_path: Path) -> Collection:
    """The collection of the version before, as it lay on its disk."""
    with tarfile.open(DATA / "collection.tar.xz") as packed:
        packed.extractall(tmp_path, filter="fully_trusted")
    root = tmp_path / "collection"
    rows = json.loads((tmp_path / "manifest.json").read_text())
    inodes = {}
    for name, inode, mtime, mode, tags in rows:
        path = os.path.join(os.fsencode(root), bytes.fromhex(name))
        inodes[inode] = os.lstat(path).st_ino
        if tags is not None:
            os.setxattr(path, "user.xdg.tags", tags.encode())
        if not os.path.islink(path):
            os.chmod(path, mode)
        os.utime(path, ns=(mtime, mtime), follow_symlinks=False)
    _put_inodes(root, inodes)
    for name, _, mtime, *_ in rows:  # the journals were written anew
        path = os.path.join(os.fsencode(root), bytes.fromhex(name))
        os.utime(path, ns=(mtime, mtime), follow_symlinks=False)
    return Collection(root)


def _put_inodes(root: Path, inodes: dict[int, int]) -> None:
    """Put the inodes that files have now in the place of those that they had."""

    def now(value: Any) -> Any:
        if isinstance(value, dict):
            return {key: now(inner) for key, inner in value.items()}
        if isinstance(value, list):
            return [now(inner) for inner in value]
        return inodes.get(value, value) if isinstance(value, int) and not isinstance(value, bool) else value

    for journal in (root / ".magpie" / "journal").iterdir():
        records = [decode_line(line) for line in journal.read_bytes().splitlines(keepends=True)]
        journal.write_bytes(b"".join(encode_line(now(record)) for record in records if record is not None))
    with closing(sqlite3.connect(root / ".magpie" / "catalogue.db")) as db, db:
        for table in ("file", "plan_step"):
            for row, inode in db.execute(f"SELECT rowid, inode FROM {table} WHERE inode IS NOT NULL").fetchall():
                db.execute(f"UPDATE {table} SET inode = ? WHERE rowid = ?", (now(inode), row))
        for row, data in db.execute("SELECT rowid, data FROM plan_step").fetchall():
            db.execute("UPDATE plan_step SET data = ? WHERE rowid = ?", (json.dumps(now(json.loads(data))), row))


def test_what_waits_is_applied_and_everything_comes_back(earlier: Collection) -> None:
    assert [one["state"] for one in earlier.ok("history", "--json").lines][-1] == "unfinished"
    assert len(earlier.ok("plans", "--json").lines) == 6
    answer = earlier.ok(
        "apply", "7", "--anyway", "--json"
    )  # an intake plan; the change that was cut off is finished before
    assert "was interrupted: " in answer.err and answer.json["done"] == 4 and not answer.json["skipped"]
    assert {path for path in earlier.files() if path.startswith("Kits/Fennick Paper Co/Rope Ladder")}
    earlier.ok("undo", "12")  # what was cut off, and finished since
    saved = earlier.ok("apply", str(earlier.root / "plan.csv"), "--anyway", "--json").json
    assert saved["done"] == 12 and not saved["skipped"]
    assert earlier.ok("apply", "8", "--anyway", "--json").json["done"]  # a copy is held
    earlier.ok("tag", "list")
    kites = earlier.ok("find", "tag", "is", "kites", "--json").lines
    assert {item["fields"]["title"] for item in kites} >= {"Paper Gulls", "Kite Weather"}
    settled = [item for item in kites if item["state"] == "settled"]
    assert [item["fields"]["year"] for item in settled] == [2001]
    undone = 0
    while (answer := earlier.run("undo")).code != 2:
        undone += 1
        assert answer.code in (0, 1) and undone < 40, answer
    left = {path for path in earlier.files() if not path.startswith("Views/")}
    assert left == ORIGINALS
    for path in ORIGINALS - {"plan.csv", "Heap/evening.m3u", "Games/sets/gull.bin", "Games/sets/gull.cue"}:
        if not path.endswith(".zip"):
            was = "Heap/Kite Weather (2004).mkv" if "Kite Weather" in path else path
            assert os.fsdecode((earlier.root / path).read_bytes()) == was
    text = (earlier.root / "Heap/evening.m3u").read_text()
    assert text.splitlines() == ["The.Salt.Orchard.1987.1080p.BluRay.x264-BRINE.mkv", "Kite Weather (2004).mkv"]


def test_a_new_catalogue_comes_from_the_journals_of_before(earlier: Collection) -> None:
    for file in (earlier.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    earlier.ok("scan")
    kites = earlier.ok("find", "tag", "is", "kites", "--json").lines
    assert {item["fields"]["title"] for item in kites} >= {"Paper Gulls", "Kite Weather"}
    assert earlier.ok("tidy", "Kits", "--json").json["steps"] == []  # what intake has placed stays


def test_what_a_newer_version_wrote_is_left_to_it(earlier: Collection) -> None:
    journal = earlier.root / ".magpie" / "journal" / "000001.log"
    record = {"r": "run", "run": "undo", "at": "2031-01-01T00:00:00+00:00", "format": 3}
    journal.write_bytes(journal.read_bytes() + encode_line(record))
    answer = earlier.run("undo", "1")
    assert answer.code in (2, 3) and "newer magpie" in answer.err and issubclass(MagpieError, Exception)
