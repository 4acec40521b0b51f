"""What only the name says that a file first came with outlives its filing, a full scan, and the catalogue."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify import identify
from lazy_magpie.identify.original_name import recalled
from lazy_magpie.scan.original_paths import first_paths
from tests.conftest import Collection

Tree = Callable[..., Collection]

FILM = "Heap/The.Salt.Orchard.1987.FRENCH.DVDRip.XviD-BRINE.avi"
EPISODE = "Heap/Tidewater.Lane.S02E05.The.Ferry.GERMAN.720p.WEB.mkv"


def _told(collection: Collection, words: str) -> dict[str, Any]:
    (item,) = collection.ok("find", words, "--json").lines
    return {"path": item["path"], "languages": item["fields"].get("languages"), "source": item["facts"].get("source")}


def _forget(collection: Collection) -> None:
    for file in (collection.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    collection.ok("scan")


@pytest.fixture
def filed(tree: Tree) -> Collection:
    """A collection whose film and episode were filed under names that say less than the first ones."""
    collection = tree([FILM, EPISODE])
    collection.ok("scan")
    collection.run("tidy", "--now")
    return collection


@pytest.mark.parametrize("again", [lambda one: one.ok("scan", "--full"), _forget], ids=["full scan", "new catalogue"])
def test_no_tidy_destroys_its_own_evidence(filed: Collection, again: Callable[[Collection], object]) -> None:
    again(filed)
    film = "Films/The Salt Orchard (1987)/The Salt Orchard (1987).avi"
    assert _told(filed, "orchard") == {"path": film, "languages": ["fr"], "source": "dvd"}
    assert _told(filed, "ferry") | {"path": ""} == {"path": "", "languages": ["de"], "source": "web"}
    assert "languages      fr  from first name “FRENCH”" in filed.ok("show", "orchard").out


def test_a_file_that_was_moved_twice_keeps_its_very_first_name(filed: Collection) -> None:
    filed.run("rename", "orchard", "--append", " (restored)", "--now")
    _forget(filed)
    assert ["first_path", FILM, "disk"] in filed.ok("show", "orchard", "--json").json["kept"]


def test_what_was_taken_back_has_its_first_name_again(filed: Collection) -> None:
    filed.ok("undo")
    _forget(filed)
    assert filed.ok("show", "orchard", "--json").json["path"] == FILM
    assert "first path" not in filed.ok("show", "orchard").out


@pytest.mark.parametrize(
    ("now", "kept"),
    [
        ("The Salt Orchard (1987).avi", ["fr"]),
        ("The Salt Orchard (1987) [German].avi", ["de"]),
        ("The Salt Orchard (1988).avi", None),
        ("The Weir (1987).avi", None),
        ("Tidewater Lane S02E05.avi", None),
    ],
)
def test_only_names_of_one_thing_are_put_together(now: str, kept: list[str] | None) -> None:
    assert recalled(identify(now), identify(FILM)).fields.get("languages") == kept


_PLACES = st.sampled_from([f"{folder}{name}" for folder in ("", "a/", "a/b/", "c/") for name in ("x", "y", "z")])


@given(st.sets(_PLACES, min_size=1), st.lists(st.tuples(_PLACES, _PLACES), max_size=12), st.data())
def test_first_paths_are_found_through_all_moves(start: set[str], wished: list[tuple[str, str]], data: Any) -> None:
    now = {path: path for path in start}  # where a file is: where it came from
    moves = []
    for source, target in wished:
        if source in now and target not in now:
            now[target] = now.pop(source)
            moves.append((source, target, False))
        folder, other = data.draw(st.sampled_from([("a", "d"), ("a/b", "e"), ("d", "a"), ("c", "a/f")]))
        inside = [path for path in now if path.startswith(f"{folder}/")]
        if inside and not any(path.startswith(f"{other}/") for path in now):
            now |= {other + path[len(folder) :]: now.pop(path) for path in inside}
            moves.append((folder, other, True))
    assert dict(first_paths(moves, now)) == {path: first for path, first in now.items() if path != first}
