"""The find language against a plain evaluation of the same words; columns, totals, CSV; the questions of the docs."""

from __future__ import annotations

import csv
import importlib
import io
import re
import shlex
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie import find
from lazy_magpie.catalogue import Items, ItemWriter, NewFile, in_memory
from lazy_magpie.catalogue.files import Files
from lazy_magpie.catalogue.query import folded_text, folded_words
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Identity, Kind, State
from lazy_magpie.scan.folder_unit import made_of
from lazy_magpie.scan.grouping import GroupMember, ItemGroup
from lazy_magpie.scan.identified_file import IdentifiedFile
from tests.conftest import Collection

Tree = Callable[..., Collection]
DOCS = Path(__file__).parent.parent / "docs"

MADE: list[tuple[str, Kind, State, dict[str, Any]]] = [
    ("a/Kelp Harvest (2001).mkv", Kind.MOVIE, State.CLEAR, {"title": "Kelp Harvest", "year": 2001, "height": 1080}),
    ("a/Élan.mkv", Kind.MOVIE, State.DOUBTFUL, {"title": "Élan des Mouettes", "height": 480, "length": 5400.0}),
    ("b/kelp.mp3", Kind.TRACK, State.CLEAR, {"title": "Kelp", "artist": "Ida Marrow", "bitrate": 192000, "track": 0}),
    ("b/ebb.flac", Kind.TRACK, State.CLEAR, {"title": "Ebb", "artist": "Ida Marrow", "lossless": True}),
    ("c/x.ch8", Kind.GAME, State.CLEAR, {"title": "Is This It", "regions": ["USA", "Europe"], "system": "chip8"}),
    ("c/y.ch8", Kind.GAME, State.UNKNOWN, {"title": "y", "regions": ["Japan"], "lossless": False}),
    ("Harbour.Report.mp4", Kind.EPISODE, State.CLEAR, {"show": "The Harbour Report", "air_date": "2019-03-21"}),
    ("later.mp4", Kind.EPISODE, State.SETTLED, {"show": "Half-Tide", "air_date": "2020-01-02", "season": 0}),
]


def _catalogue() -> Items:
    db = in_memory()
    files, writer = Files(db), ItemWriter(db)
    for number, (path, kind, state, fields) in enumerate(MADE, start=1):
        folder, _, name = path.rpartition("/")
        new: NewFile = (files.folder(folder, 1)[0], name, number * 1000, 1_600_000_000_000_000_000, number, 1)
        files.add([new])
        id = db.execute("SELECT MAX(id) FROM file").fetchone()[0]
        seen = IdentifiedFile(id, path, number * 1000, 1_600_000_000_000_000_000, Identity(kind, state, 1.0, fields))
        writer.store([made_of(ItemGroup(seen.identity, (GroupMember(seen),)))], ())
    writer.flush()
    return Items(db)


ITEMS = _catalogue()


def asked(words: list[str]) -> set[str]:
    """Return the paths that the catalogue finds."""
    return {item.path for item in ITEMS.ask(find.parse(words))}


def _values(number: int, field: str) -> list[Any]:
    _, kind, state, fields = MADE[number]
    every = {**fields, "kind": kind.value, "state": state.value, "size": (number + 1) * 1000}
    value = every.get(field, [])
    return value if isinstance(value, list) else [value]


def _meets(number: int, words: list[str]) -> bool:
    """Evaluate one simple condition in plain Python."""
    if len(words) == 1:
        path, _, _, fields = MADE[number]
        texts = " ".join([path, *(v for v in fields.values() if isinstance(v, str))])
        return any(part.startswith(folded_words(words[0])) for part in folded_words(texts).split())
    field, operator, *limits = words
    values = _values(number, field)
    match operator:
        case "is":
            return any(_same(value, limits[0]) for value in values)
        case "isnt":
            return not any(_same(value, limits[0]) for value in values)
        case "has":
            return any(folded_text(limits[0]) in folded_text(v) for v in values if isinstance(v, str))
        case "known":
            return bool(values)
        case "missing":
            return not values
        case "under":
            return any(v < _read(limits[0], v) for v in values)
        case "over":
            return any(v > _read(limits[0], v) for v in values)
        case _:
            return any(_read(limits[0], v) <= v <= _read(limits[2], v) for v in values)


def _same(value: Any, word: str) -> bool:
    return folded_text(value) == folded_text(word) if isinstance(value, str) else value == _read(word)


def _read(word: str, like: Any = 0) -> Any:
    if isinstance(like, str):
        return word
    match = re.fullmatch(r"(\d+)([kM]?)", word)
    if match is None:
        return {"yes": 1, "no": 0}.get(word, word)
    return int(match[1]) * {"": 1, "k": 1000, "M": 1024 * 1024}[match[2]]


SIMPLE = st.one_of(
    st.sampled_from(["kelp", "mouet", "harb", "ida", "is", "tide", "zzz", "c", "flac"]).map(lambda word: [word]),
    st.tuples(st.just("kind"), st.sampled_from(["is", "isnt"]), st.sampled_from(["movie", "track", "game"])).map(list),
    st.tuples(st.just("state"), st.sampled_from(["is", "isnt"]), st.sampled_from(["clear", "doubtful"])).map(list),
    st.tuples(
        st.sampled_from(["title", "artist", "regions", "system", "show"]),
        st.sampled_from(["is", "isnt", "has"]),
        st.sampled_from(["Kelp", "ida marrow", "elan des mouettes", "Europe", "usa", "chip8", "e", "half-tide"]),
    ).map(list),
    st.tuples(
        st.sampled_from(["year", "height", "track", "season", "bitrate", "length", "size"]),
        st.sampled_from(["is", "isnt", "under", "over"]),
        st.sampled_from(["0", "480", "1080", "2001", "3000", "5400", "192000"]),
    ).map(list),
    st.tuples(
        st.sampled_from(["year", "height", "size"]),
        st.just("from"),
        st.sampled_from(["0", "480", "2001"]),
        st.just("to"),
        st.sampled_from(["1080", "2001", "4000"]),
    ).map(list),
    st.tuples(
        st.just("air_date"), st.sampled_from(["is", "under", "over"]), st.sampled_from(["2019-03-21", "2020-01-01"])
    ).map(list),
    st.tuples(st.just("lossless"), st.sampled_from(["is", "isnt"]), st.sampled_from(["yes", "no"])).map(list),
    st.tuples(
        st.sampled_from(["year", "artist", "lossless", "regions", "season"]), st.sampled_from(["known", "missing"])
    ).map(list),
)
JOINED = st.recursive(
    SIMPLE.map(lambda words: ("one", words)),
    lambda inner: st.one_of(
        st.tuples(st.just("not"), inner), st.tuples(st.sampled_from(["and", "or", ""]), inner, inner)
    ),
    max_leaves=6,
)


def _words(tree: Any) -> list[str]:
    match tree:
        case ("one", words):
            return list(words)
        case ("not", inner):
            return ["not", "(", *_words(inner), ")"]
        case (joint, left, right):
            return ["(", *_words(left), ")", *([joint] if joint else []), "(", *_words(right), ")"]
    raise AssertionError


def _true(tree: Any, number: int) -> bool:
    match tree:
        case ("one", words):
            return _meets(number, words)
        case ("not", inner):
            return not _true(inner, number)
        case ("or", left, right):
            return _true(left, number) or _true(right, number)
        case (_, left, right):
            return _true(left, number) and _true(right, number)
    raise AssertionError


@given(JOINED, st.sampled_from([2, 2000]))
def test_every_question_is_answered_as_plain_python_would(tree: Any, many: int) -> None:
    wanted = {path for number, (path, *_) in enumerate(MADE) if _true(tree, number)}
    with pytest.MonkeyPatch.context() as patch:  # also as where very many items meet a part of the question
        patch.setattr("lazy_magpie.catalogue.items._MANY", many)
        assert asked(_words(tree)) == wanted


@pytest.mark.parametrize(
    ("words", "paths"),
    [
        ("not kelp kind is movie", {"a/Élan.mkv"}),
        ("kind is game or kind is movie not kelp", {"a/Élan.mkv", "c/x.ch8", "c/y.ch8"}),
        ("is this it", {"c/x.ch8"}),
        ("height under 720", {"a/Élan.mkv"}),
        ("length over 1:29:00", {"a/Élan.mkv"}),
        ("air_date is 2019", {"Harbour.Report.mp4"}),
        ("air_date from 2019-03 to 2020", {"Harbour.Report.mp4", "later.mp4"}),
        ("size over 7k", {"later.mp4"}),
        ("season is 0", {"later.mp4"}),
        ("ending is flac", {"b/ebb.flac"}),
    ],
)
def test_questions(words: str, paths: set[str]) -> None:
    assert asked(words.split()) == paths


@pytest.mark.parametrize(
    ("words", "text"),
    [
        ("year is soon", "“soon” is no value for year: it takes a number"),
        ("size over big", "it takes a size like 700M or 4G"),
        ("lossless is maybe", "it takes yes or no"),
        ("length under x", "it takes a length like 1:42:07"),
        ("air_date over 3.4.2019", "it takes a date like 2019-03-21"),
        ("year from 1960", "needs a “to”"),
        ("year has 19", "“has” looks into texts"),
        ("title over a", "title has no order"),
        ("year is", "A value is missing after “year is”"),
        ("shelf is x", "There is no shelf “x”"),
        ("kind is moovie", "did you mean “movie”?"),
        ("kelp )", "“)” without a “(”"),
    ],
)
def test_wrong_questions(words: str, text: str) -> None:
    with pytest.raises(UsageError) as raised:
        find.parse(words.split())
    assert text in str(raised.value)


QUESTIONS = re.findall(r"\| `magpie (find [^`]*)` \|", (DOCS / "finding.md").read_text())


@pytest.fixture(scope="module")
def scanned(_demo_made: Path, tmp_path_factory: pytest.TempPathFactory) -> Collection:
    """The demo collection, scanned once."""
    import shutil

    root = tmp_path_factory.mktemp("find") / "demo"
    shutil.copytree(_demo_made, root, symlinks=True)
    (root / "Heap/Text in disguise.mkv").write_text("no film")
    shutil.copy(root / "Club/Kite table.jpg", root / "Heap/kite table.png")
    collection = Collection(root)
    collection.ok("start")
    collection.ok("scan")
    return collection


@pytest.mark.parametrize("question", QUESTIONS)
def test_the_questions_of_the_docs_find_something(scanned: Collection, question: str) -> None:
    assert len(QUESTIONS) == 20
    words = shlex.split(question)
    if words[-1] in ("10", "now") or "licence" in words:  # the demo has no such thing: an empty answer is right
        assert scanned.run(*words).code == 0
    else:
        assert scanned.ok(*words, "--json").lines, question


def test_columns_are_chosen_and_kept_for_a_kind(scanned: Collection) -> None:
    def head(*words: str) -> list[str]:
        return scanned.ok("find", *words).out.splitlines()[0].split()

    assert head("kind", "is", "track")[:3] == ["artist", "title", "album"]
    assert head("kind", "is", "track", "--columns", "title,bitrate", "--remember") == ["title", "bitrate"]
    assert head("kind", "is", "track") == ["title", "bitrate"]
    assert head("kind", "is", "movie")[0] == "title"
    scanned.ok("find", "kind", "is", "track", "--columns", "", "--remember")
    assert head("kind", "is", "track")[:3] == ["artist", "title", "album"]
    assert "did you mean “title”?" in scanned.ok("find", "--columns", "titel", code=2).err
    assert "did you mean “size”?" in scanned.ok("find", "--sort", "sise", code=2).err


def test_sorted_added_up_and_as_csv(scanned: Collection) -> None:
    rows = list(csv.DictReader(io.StringIO(scanned.ok("find", "--sort", "size", "--reverse", "--csv").out)))
    sizes = [int(row["size"]) for row in rows if row["size"]]
    assert sizes == sorted(sizes, reverse=True) and len(rows) > 90
    totals = {(row["by"], row["name"]): row for row in scanned.ok("find", "--total", "--json").lines}
    kinds = [row for (by, _), row in totals.items() if by == "kind"]
    assert sum(row["count"] for row in kinds) == totals["all", ""]["count"] == len(rows)
    assert totals["maker", "Ida Marrow"]["count"] == 5 and totals["system", "chip8"]["count"] == 4


@pytest.mark.parametrize("down", [False, True])
def test_a_list_is_sorted_by_the_outermost_of_several_values_and_ends_with_what_has_none(
    tree: Tree, down: bool
) -> None:
    years = {"Kelp (2001).mkv": 2001, "Tern (1994).mkv": 1994, "Auk (1987).mkv": 1987, "Skua.mkv": None}
    collection = tree([f"films/{name}" for name in years])
    collection.ok("scan")
    listed = collection.ok("find", "--sort", "year", *["--reverse"] * down, "--json").lines
    ordered = sorted((year for year in years.values() if year), reverse=down)
    assert [item["fields"].get("year") for item in listed] == [*ordered, None]


def test_a_folder_is_not_below_its_namesake(tree: Tree) -> None:
    collection = tree(
        ["Reel/Kelp (2001).mkv", "Reel0/Tern (2002).mkv", "Reel-b/Auk (1987).mkv", "Reel/deep/Skua (1999).mkv"]
    )
    collection.ok("scan")
    below = {item["path"] for item in collection.ok("find", "Reel/", "--json").lines}
    assert below == {"Reel/Kelp (2001).mkv", "Reel/deep/Skua (1999).mkv"}
    assert collection.ok("scan", "Reel", "--json").json["files"] == 2


def test_what_is_missing_is_listed_where_it_is_asked_for_and_not_where_gone_is_a_word(tree: Tree) -> None:
    collection = tree(["Gone Ashore (1999).mkv", "Tide Gone Out (2001).mkv"])
    collection.ok("scan")
    (collection.root / "Gone Ashore (1999).mkv").unlink()
    collection.ok("scan")

    def titles(*words: str) -> list[str]:
        return [item["fields"]["title"] for item in collection.ok("find", *words, "--json").lines]

    assert titles("gone") == ["Tide Gone Out"]
    assert titles("gone", "is", "yes") == ["Gone Ashore"]
    assert titles("gone", "is", "no") == ["Tide Gone Out"]
    assert titles("not", "gone", "is", "yes") == ["Tide Gone Out"]


def test_words_are_found_under_the_new_path_after_a_move(tree: Tree) -> None:
    collection = tree(["heap/kelp.harvest.2001.720p.mkv"])
    collection.ok("scan")
    collection.ok("tidy", "--now")
    assert collection.ok("find", "films", "harvest", "--json").lines  # before any scan
    collection.ok("scan")
    assert collection.ok("find", "films", "harvest", "--json").lines
    assert not collection.ok("find", "heap", "--json").lines


def test_a_scan_that_was_stopped_goes_on_where_it_was(tree: Tree, monkeypatch: pytest.MonkeyPatch) -> None:
    gathering = importlib.import_module("lazy_magpie.scan.pipeline")

    collection = tree([f"{folder}/Dockside S01E0{n}.mkv" for folder in "abc" for n in (1, 2)])
    attach, calls = gathering._Archives.attach, iter(range(9))

    def stopped(*args: Any) -> None:
        if next(calls) == 2:
            raise KeyboardInterrupt
        attach(*args)

    monkeypatch.setattr(gathering._Archives, "attach", stopped)
    assert collection.run("scan").code == 3
    monkeypatch.setattr(gathering._Archives, "attach", attach)
    assert collection.ok("scan", "--json").json["new"] == 0
    assert len(collection.ok("find", "--json").lines) == 6


def test_several_paths_are_all_of_these(tree: Tree) -> None:
    collection = tree(["A/Kelp (2001).mkv", "B/Hawser (1964).mkv", "C/Wick (1999).mkv"])
    collection.ok("scan")

    def found(*words: str) -> list[str]:
        return [item["path"] for item in collection.ok("find", *words, "--json").lines]

    assert found("A", "B/Hawser (1964).mkv") == ["A/Kelp (2001).mkv", "B/Hawser (1964).mkv"]
    assert found("A", "B", "year", "over", "1970") == ["A/Kelp (2001).mkv"]
    assert found("A", "B", "kelp") == ["A/Kelp (2001).mkv"]
    assert found("not", "A", "C") == ["B/Hawser (1964).mkv"]


def test_a_thing_is_found_by_the_path_of_any_of_its_files(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    several = [item for item in demo.ok("find", "--json").lines if len(item["files"]) > 1]
    assert len(several) > 10
    for item in several:
        for file in item["files"]:
            (found,) = demo.ok("find", file["path"], "--json").lines
            assert found["id"] == item["id"]
        assert demo.ok("show", item["files"][-1]["path"], "--json").lines[0]["id"] == item["id"]
