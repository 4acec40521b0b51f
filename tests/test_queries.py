"""Every query of the catalogue finds its rows by an index, but for those that are about all rows."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

import pytest

from lazy_magpie.catalogue import All, AnyOf, Below, Catalogue, Is, opened
from lazy_magpie.collection import find
from lazy_magpie.identify.title_text import match_key
from tests.conftest import SHELVES, Collection

Tree = Callable[..., Collection]

SMALL = frozenset(
    "meta root plan plan_note view view_link tag_colour title_list relocation moved sqlite_master settled "
    "let_be named".split()
)
"""Tables with few rows, or with those of one change, or made by a statement as it goes."""
ABOUT_ALL = (
    r"ORDER BY folder\.root, folder\.path",  # what a find lists, and what a planner goes through
    r"FROM item WHERE NOT EXISTS",  # items whose file has gone to another
    r"FROM (?:placement ORDER BY path, change|placed|taken|refused|field|looked);?$|^SELECT id FROM folder$",
    r"FROM words",  # the full-text index is one itself
    r"FROM title_vocabulary|\.\?$",
    r"^\s*(?:INSERT INTO folder_of_root|UPDATE item SET stale = \?;|UPDATE \w+ SET \w+ = replace)",  # upgrades
    r"^WITH here AS",  # which sizes are there more than once
    r"^SELECT DISTINCT archive FROM came_from",  # the archives that are known to be unpacked
    r"FROM tagged|SELECT \? FROM \w+ LIMIT",
    r"SELECT DISTINCT file FROM member",  # the files that are known to hold others
)
"""Statements that are about all rows of a table, with why."""
_NAME = re.compile(
    r"\bSCAN (?:TABLE )?(\w+)\b(?! VIRTUAL| USING INDEX (?:folder_dirty|item_stale|item_doubtful|file_missing))"
)


@pytest.fixture
def queries(monkeypatch: pytest.MonkeyPatch) -> Iterator[dict[str, str]]:
    """What was asked of any catalogue: the plan of each statement, by the statement without its values."""
    found: dict[str, str] = {}
    real = sqlite3.connect

    def connect(*args: Any, **more: Any) -> sqlite3.Connection:
        db: sqlite3.Connection = real(*args, **more)
        busy = False

        def traced(statement: str) -> None:
            nonlocal busy
            shape = re.sub(r"'(?:[^']|'')*'|\b\d+(?:\.\d+)?\b|X'[0-9A-F]*'", "?", statement)
            if busy or shape in found or not re.match(r"\s*(?:SELECT|UPDATE|DELETE|INSERT|WITH)", statement):
                return
            busy = True
            try:
                rows = db.execute(f"EXPLAIN QUERY PLAN {statement}").fetchall()
                found[shape] = "\n".join(str(row[3]) for row in rows)
            except sqlite3.Error:
                found[shape] = ""
            finally:
                busy = False

        db.set_trace_callback(traced)
        return db

    monkeypatch.setattr(sqlite3, "connect", connect)
    yield found
    monkeypatch.undo()


def test_every_query_finds_its_rows_by_an_index(demo: Collection, queries: dict[str, str]) -> None:
    demo.run("start")
    demo.ok("scan")
    for words in (
        ("tern",), ("kind", "is", "movie", "year", "from", "1960", "to", "1990"), ("Heap", "maker", "known"),
        ("title", "has", "kite"), ("bitrate", "under", "256k"), ("tag", "is", "x"), ("gone", "is", "yes"),
    ):  # fmt: skip
        demo.run("find", *words)
    demo.run("settle")
    demo.run("settle", "--accept", "bare year")
    demo.run("tag", "put", "kites", "kind", "is", "movie", "--new")
    demo.run("intake", "Downloads", "--now")
    demo.run("tidy", "--now")
    demo.run("view", "make", "kites", "tag", "is", "kites", "--now")
    demo.run("copies", "--keep", "shorter", "--hold", "--now")
    demo.run("copies", "--alike")
    demo.run("show", "Films")
    demo.run("undo")
    demo.run("scan")
    demo.run("scan", "--full")
    demo.run("forget")
    wrong = []
    for statement, plan in queries.items():
        tables = [name for name in _NAME.findall(plan) if name not in SMALL]
        made_for_it = "AUTOMATIC" in plan  # an index that is made anew for every such question
        if made_for_it or (tables and not any(re.search(about, statement.strip()) for about in ABOUT_ALL)):
            wrong.append(f"{statement}\n    {plan}")
    assert len(queries) > 100
    assert not wrong, "\n\n".join(wrong)


def test_empty_folders_are_found_in_proportion(tree: Tree) -> None:
    works = []
    for count in (100, 800):
        collection = tree([f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv" for number in range(count)], SHELVES)
        (collection.root / "Films/Nothing (1999)/Extras").mkdir(parents=True, exist_ok=True)
        collection.ok("scan")
        with opened(find(collection.root)) as catalogue:
            steps = [0]
            catalogue.files.db.set_progress_handler(partial(_count, steps), 100)
            assert catalogue.files.empty_folders() == ["Films/Nothing (1999)", "Films/Nothing (1999)/Extras"]
            catalogue.files.db.set_progress_handler(None, 0)
        works.append(steps[0])
    assert works[1] < 16 * works[0]  # eight times the folders; by pairs it would be sixty-four


def test_the_makers_of_the_index_are_those_of_the_items(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    with opened(find(demo.root)) as catalogue:
        makers = catalogue.items.makers()
        assert len(makers) > 3
        assert set(map(match_key, catalogue.items.folded_makers())) == set(map(match_key, makers))


ONE = "Films/Kelp 7 (2001)"
ABOUT_ONE: dict[str, Callable[[Catalogue], object]] = {
    "its items": lambda catalogue: [item.path for item in catalogue.items.ask(Below(ONE, 0))],
    "a file": lambda catalogue: [item.path for item in catalogue.items.ask(Below(f"{ONE}/Kelp 7 (2001).mkv", 0))],
    "how many": lambda catalogue: catalogue.items.count(Below(ONE, 0)),
    "with another condition": lambda catalogue: list(catalogue.items.ask(All((Below(ONE, 0), Is("kind", "movie"))))),
    "a list of paths": lambda catalogue: catalogue.items.looked_up(
        AnyOf(tuple(Below(f"Films/Kelp {number % 90} (2001)", 0) for number in range(120)))
    ),
    "what it weighs": lambda catalogue: list(catalogue.items.weigh(Below(ONE, 0))),
}


@pytest.mark.parametrize("about", ABOUT_ONE)
def test_a_question_about_one_place_costs_the_same_in_any_collection(tree: Tree, about: str) -> None:
    works = []
    for count in (100, 800):
        collection = tree([f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv" for number in range(count)], SHELVES)
        collection.ok("scan")
        with opened(find(collection.root)) as catalogue:
            steps = [0]
            catalogue.files.db.set_progress_handler(partial(_count, steps), 10)
            assert ABOUT_ONE[about](catalogue)
            catalogue.files.db.set_progress_handler(None, 0)
        works.append(steps[0])
    assert works[1] < 2 * works[0] + 10


def _count(steps: list[int]) -> int:
    steps[0] += 1
    return 0
