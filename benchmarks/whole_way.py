"""Collections that others wrote down, taken the whole way: `python -m benchmarks.whole_way [FILE.jsonl …]`.

Each collector's tree (as for `benchmarks.trees`) is made of small files. Each is scanned, checked, listed in every
form, sent to a card twice, with short names and at most 99 files a folder, and mirrored. Said is what fails; which rows
a list lacks; what the second sending still sends; which names are not short, which folders too full; how the mirror
differs; and how often each rule of `check` finds something.
"""

from __future__ import annotations

import argparse
import contextlib
import csv
import io
import json
import os
import re
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from benchmarks.trees import TREES, Row, read_trees
from lazy_magpie.cli.main import main

_CONFIG = """[collection]
name = "Test"
[player.lounge]
art = {{ cover = "{{stem}}" }}
data = "dublin-core"
[target.card]
folder = "{card}"
split = 99
short = true
"""
_SHORT = re.compile(r"[^.]{1,8}(\.[^.]{1,3})?")


def _run(root: Path, *words: str) -> tuple[int, str]:
    """Run a command; return its exit code, and what it prints."""
    text = io.StringIO()
    with contextlib.redirect_stdout(text), contextlib.redirect_stderr(io.StringIO()):
        code = main(["-C", str(root), *words])
    return code, text.getvalue()


def _rows(path: Path) -> int:
    """Return how many items a list has."""
    match path.suffix:
        case ".csv":
            return len(list(csv.reader(io.StringIO(path.read_text("utf-8-sig"))))) - 1
        case ".json":
            return len(json.loads(path.read_text()))
        case ".md":
            return len(path.read_text().splitlines()) - 2
        case _:
            return path.read_text().count("<tr>") - 1


def _faults(home: Path, rows: list[Row], found: Counter[str]) -> Iterator[str]:
    """Take one collection the whole way; yield what is wrong, and count in `found` what the check says."""
    own, card, mirror = (home / name for name in ("own", "card", "mirror"))
    for folder in (own / ".magpie", card, mirror):
        folder.mkdir(parents=True)
    (own / "magpie.toml").write_text(_CONFIG.format(card=card))
    files = {row["path"]: f"x{row['path']}" for row in rows}
    for path, text in files.items():
        (own / path).parent.mkdir(parents=True, exist_ok=True)
        (own / path).write_text(text)
    _run(own, "-q", "scan")
    yield from _listed(own, home)
    for line in _run(own, "check", "--json")[1].splitlines():
        found[json.loads(line)["rule"]] += 1
    for words in (("companions",), ("send", "card", "--now"), ("mirror", str(mirror), "--refresh", "--now")):
        if _run(own, "-q", *words)[0] not in (0, 1):
            yield f"{words[0]} fails"
    if json.loads(_run(own, "send", "card", "--json")[1])["steps"]:
        yield "the second sending sends"
    if _run(own, "mirror", str(mirror), "--json") != (0, ""):
        yield "the mirror differs"
    for path, text in files.items():
        if not all((top / path).is_file() and (top / path).read_text() == text for top in (own, mirror)):
            yield f"lost, or another: {path}"
    yield from _on_card(card)


def _listed(own: Path, home: Path) -> Iterator[str]:
    """Yield the lists that can't be written, or lack something."""
    items = len(_run(own, "find", "--json")[1].splitlines())
    for ending in ("csv", "xlsx", "ods", "json", "md", "html", "m3u8", "xspf"):
        path = home / f"list.{ending}"
        if _run(own, "find", "--write", str(path))[0]:
            yield f"no list as {ending}"
        elif ending in ("csv", "json", "md", "html") and _rows(path) != items:
            yield f"{_rows(path)} rows of {items} as {ending}"


def _on_card(card: Path) -> Iterator[str]:
    """Yield the names that are not short, and the folders that are too full."""
    for _, folders, names in os.walk(card):
        if ".magpie" in folders:
            folders.remove(".magpie")
        yield from (f"not short: {name}" for name in (*folders, *names) if not _SHORT.fullmatch(name))
        if len(names) > 99:
            yield f"{len(names)} files in a folder"


def _all() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    trees = read_trees(parser.parse_args().files)
    found: Counter[str] = Counter()
    wrong = 0
    for name, rows in trees.items():
        with tempfile.TemporaryDirectory() as home:
            for fault in _faults(Path(home), rows, found):
                wrong += 1
                print(f"{name}: {fault}", flush=True)
    print(f"{len(trees)} trees, {sum(map(len, trees.values())):,} files, {wrong} faults")
    print(", ".join(f"{rule} {count}" for rule, count in found.most_common()))
    return 1 if wrong else 0


if __name__ == "__main__":
    raise SystemExit(_all())
