"""Laws on random trees: a scan sees what is there, copies are those that plain Python finds, holding loses nothing."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Collection, picture

CONFIG = '[shelf.films]\nkind = "movie"\nfolder = "Films"\n'
FOLDERS = ("", "Films", "Heap", "Heap/deep", "Old")
NAMES = tuple(f"{title} ({year}).mkv" for title in ("Kelp", "Tern", "Élan") for year in (1950, 1999))
CONTENTS = ("one", "two", "ten", "a longer text", "")
PLACE = st.tuples(st.sampled_from(FOLDERS), st.sampled_from(NAMES)).map(lambda pair: "/".join(filter(None, pair)))
TREE = st.dictionaries(PLACE, st.sampled_from(CONTENTS), max_size=9)


@contextmanager
def _collection(tree: dict[str, str]) -> Iterator[Collection]:
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "collection"
        root.mkdir()
        (root / "magpie.toml").write_text(CONFIG)
        collection = Collection(root)
        for number, (path, text) in enumerate(tree.items()):
            file = root / path
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(text)
            os.utime(file, ns=(number * 10**9, number * 10**9))
        yield collection


# --- a scan sees what is on the disk, whatever happened since the last one -------------------------------------------

ACT = st.one_of(
    st.tuples(st.just("write"), PLACE, st.sampled_from(CONTENTS)),
    st.tuples(st.just("remove"), PLACE),
    st.tuples(st.just("move"), PLACE, PLACE),
    st.tuples(st.just("move folder"), st.sampled_from(FOLDERS[1:]), st.sampled_from(FOLDERS[1:])),
    st.tuples(st.just("remove folder"), st.sampled_from(FOLDERS[1:])),
    st.tuples(st.just("tidy")),
    st.tuples(st.just("undo")),
    st.tuples(st.just("forget")),
)


def _act(collection: Collection, act: tuple[Any, ...]) -> None:
    """Do what another program, or a person, may do between two scans."""
    root = collection.root
    match act:
        case ("write", path, text):
            (root / path).parent.mkdir(parents=True, exist_ok=True)
            (root / path).write_text(text)
        case ("remove", path) if (root / path).exists():
            (root / path).unlink()
        case ("move", path, target) if (root / path).exists() and not (root / target).exists():
            (root / target).parent.mkdir(parents=True, exist_ok=True)
            (root / path).rename(root / target)
        case ("move folder", path, target) if (root / path).is_dir() and not (root / target).exists():
            if not f"{target}/".startswith(f"{path}/"):
                (root / target).parent.mkdir(parents=True, exist_ok=True)
                (root / path).rename(root / target)
        case ("remove folder", path) if (root / path).is_dir():
            shutil.rmtree(root / path)
        case ("tidy",):
            collection.run("tidy", "--now", "--json")
        case ("undo",):
            collection.run("undo", "--json")
        case ("forget",):
            collection.run("forget", "--yes", "--json")


@settings(max_examples=40)
@given(TREE, st.lists(st.lists(ACT, max_size=3), max_size=4))
def test_a_scan_sees_what_is_on_the_disk(tree: dict[str, str], rounds: list[list[tuple[Any, ...]]]) -> None:
    with _collection(tree) as collection:
        collection.run("scan")
        for acts in rounds:
            for act in acts:
                _act(collection, act)
            collection.run("scan")
            found = collection.ok("find", "--json").lines
            paths = [file["path"] for item in found for file in item["files"]]
            assert sorted(paths) == sorted(collection.files())
            sizes = {file["path"]: file["size"] for item in found for file in item["files"]}
            assert sizes == {path: (collection.root / path).stat().st_size for path in paths}
            for item in found[:2]:  # what the index has is what is there
                title = str(item["fields"]["title"])
                assert item["id"] in {one["id"] for one in collection.ok("find", "title", "is", title, "--json").lines}


# --- copies ----------------------------------------------------------------------------------------------------------


def _sets(tree: dict[str, str]) -> set[frozenset[str]]:
    """Return the sets of paths that hold the same, as plain Python finds them."""
    by_text: dict[str, set[str]] = defaultdict(set)
    for path, text in tree.items():
        if text:
            by_text[text].add(path)
    return {frozenset(paths) for paths in by_text.values() if len(paths) > 1}


def _found(collection: Collection, *words: str) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = collection.run("copies", *words, "--json").lines
    return lines


@settings(max_examples=40)
@given(TREE)
def test_copies_are_those_that_plain_python_finds(tree: dict[str, str]) -> None:
    with _collection(tree) as collection:
        collection.run("scan")
        found = _found(collection, "--keep", "shelved,older")
        assert {frozenset([one["keep"], *one["others"]]) for one in found} == _sets(tree)
        for one in found:
            shelved = [path for path in (one["keep"], *one["others"]) if path.startswith("Films/")]
            assert not shelved or one["keep"] in shelved
            assert one["bytes"] == sum(len(tree[path]) for path in one["others"])
        assert _found(collection, "--keep", "shelved,older") == found


@settings(max_examples=30)
@given(TREE, st.sampled_from(["--hold", "--link"]))
def test_taking_copies_away_loses_nothing_and_can_be_undone(tree: dict[str, str], way: str) -> None:
    with _collection(tree) as collection:
        collection.run("scan")
        before = picture(collection.root)
        kept = {one["keep"] for one in _found(collection, "--keep", "older")}
        collection.run("copies", "--keep", "older", way, "--now", "--json")
        assert {path: (collection.root / path).read_text() for path in kept} == {path: tree[path] for path in kept}
        texts = [(collection.root / path).read_text() for path in collection.files()]
        assert set(texts) == set(tree.values())
        if way == "--hold":
            assert all(texts.count(text) == 1 for text in set(texts) if text)
        else:
            assert collection.files() == set(tree)
        if _sets(tree):
            collection.ok("undo")
        assert picture(collection.root) == before
