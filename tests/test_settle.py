"""Settling doubts: grouped questions, answers by list, by hand and one by one; kept, undone, never asked again."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from lazy_magpie.catalogue import Has, opened
from lazy_magpie.collection import find
from tests.conftest import Collection, program

Tree = Callable[..., Collection]
LIST = (
    "kind,title,year,season,episode,episode title\n"
    "movie,The Tern Watchers,1985,,,\nmovie,Summer of 1962,2004,,,\n"
    "show,Captain Gale,1999,1,5,The Wreck\nshow,Captain Gale,1999,1,6,Salvage\n"
    "show,Signal House,1961,1,1,\nshow,Signal House,2004,1,1,\n"
)
FILES = [
    "the tern watchers 1985.mp4",
    "Summer of 1962.mkv",
    "Captain Gale 105.avi",
    "Captain Gale 106.avi",
    "kelp ballad.mp4",
]


@pytest.fixture
def doubtful(tree: Tree, tmp_path: Path) -> Collection:
    """A collection of doubtful films and episodes, scanned, with a title list."""
    collection = tree(FILES)
    (tmp_path / "list.csv").write_text(LIST)
    collection.ok("scan")
    collection.ok("titles", "add", str(tmp_path / "list.csv"))
    return collection


def state_of(collection: Collection, path: str) -> tuple[str, dict[str, object]]:
    """Return state and fields of the item at a path."""
    (item,) = collection.ok("find", path, "--json").lines
    return item["state"], item["fields"]


def test_doubts_are_questions_one_for_a_show(doubtful: Collection) -> None:
    questions = {question["subject"]: question for question in doubtful.ok("settle", "--json", code=1).lines}
    assert questions["Captain Gale"]["paths"] == ["Captain Gale 105.avi", "Captain Gale 106.avi"]
    assert questions["The Tern Watchers"]["reason"] == "bare year" and questions["The Tern Watchers"]["clear"]
    assert questions["Kelp Ballad"]["candidates"] == [] and not questions["Kelp Ballad"]["acceptable"]
    shown = doubtful.ok("settle", code=1).out
    assert "✓ The Tern Watchers (1985)" in shown and "and 1 more" in shown


def test_clear_matches_are_settled_and_only_they(doubtful: Collection) -> None:
    assert doubtful.ok("settle", "--auto", "--json").json["done"] == 4
    assert state_of(doubtful, "Summer of 1962.mkv") == ("settled", {"title": "Summer of 1962", "year": 2004})
    assert state_of(doubtful, "Captain Gale 105.avi")[1] == {
        "show": "Captain Gale", "season": 1, "episode": 5, "episode_title": "The Wreck",
    }  # fmt: skip
    assert state_of(doubtful, "kelp ballad.mp4")[0] == "doubtful"
    assert "from title list “list”" in doubtful.ok("show", "tern").out
    assert doubtful.ok("settle", "--auto", "--json").json["done"] == 0
    targets = {step["to"] for step in doubtful.ok("tidy", "--json", code=1).json["steps"] if step["do"] == "move"}
    assert "Films/Summer of 1962 (2004)/Summer of 1962 (2004).mkv" in targets


def test_a_persons_word_beats_lists_and_scans_and_is_undone(doubtful: Collection) -> None:
    path = "the tern watchers 1985.mp4"
    doubtful.ok("settle", path, "--set", "title=The Tern Watchers", "year=1984")
    doubtful.ok("settle", "--auto")
    doubtful.ok("scan", "--full")
    assert state_of(doubtful, path) == ("settled", {"title": "The Tern Watchers", "year": 1984})
    doubtful.ok("undo", "1")
    assert state_of(doubtful, path)[0] == "doubtful"
    doubtful.ok("redo", "1")
    assert state_of(doubtful, path)[1]["year"] == 1984
    doubtful.ok("settle", path, "--unset")
    assert state_of(doubtful, path)[0] == "doubtful"
    assert [change["command"] for change in doubtful.ok("history", "--json").lines].count("settle") == 3


def test_an_old_answer_taken_back_leaves_a_newer_one(doubtful: Collection) -> None:
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "year=1993")
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "year=1994")
    doubtful.ok("undo", "1")
    assert state_of(doubtful, "kelp ballad.mp4")[1]["year"] == 1994


def test_what_a_list_settled_yields_to_a_person_and_to_a_better_list(doubtful: Collection, tmp_path: Path) -> None:
    doubtful.ok("settle", "--auto")
    (tmp_path / "better.csv").write_text("kind,title,year\nmovie,The Tern-Watchers,1985\n")
    doubtful.ok("titles", "drop", "list")
    doubtful.ok("titles", "add", str(tmp_path / "better.csv"))
    assert doubtful.ok("settle", "--auto", "--json").json["done"] == 1
    assert state_of(doubtful, "the tern watchers 1985.mp4")[1]["title"] == "The Tern-Watchers"
    doubtful.ok("settle", "the tern watchers 1985.mp4", "--set", "title=Tern Watchers")
    doubtful.ok("settle", "--auto")
    assert state_of(doubtful, "the tern watchers 1985.mp4")[1]["title"] == "Tern Watchers"


def test_settled_goes_along_when_the_file_moves(doubtful: Collection) -> None:
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "year=1993")
    (doubtful.root / "kelp ballad.mp4").rename(doubtful.root / "other name.mp4")
    doubtful.ok("scan")
    assert state_of(doubtful, "other name.mp4") == ("settled", {"title": "Kelp Ballad", "year": 1993})


def test_all_of_one_reason_is_accepted_as_it_is_read(tree: Tree) -> None:
    collection = tree([f"kelp{n} {n + 1950}.mp4" for n in (1, 2)] + ["fog.mp4"])
    collection.ok("scan")
    assert collection.ok("settle", "--accept", "bare year", "--json").json["done"] == 2
    assert "did you mean “no year”?" in collection.ok("settle", "--accept", "no yaer", code=2).err
    assert "a needed field is missing" in collection.ok("settle", "--accept", "no year", code=2).err


def test_asked_one_by_one(doubtful: Collection) -> None:
    keys = "zz\n1\ns\nt Summer of 1962 (2005)\nq\n"
    answer = program("-C", str(doubtful.root), "settle", "--ask", "--no-colour", text=keys)
    assert answer.code == 0 and "3 items settled" in answer.out, answer
    assert "Type a number from the list" in answer.err
    assert state_of(doubtful, "Captain Gale 106.avi")[1]["episode_title"] == "Salvage"
    states = {item["path"]: item["state"] for item in doubtful.ok("find", "--json").lines}
    assert list(states.values()).count("settled") == 3
    doubtful.put("a/gull 1971.mkv", "b/puffin 1972.mkv")
    doubtful.ok("scan")
    every = program("-C", str(doubtful.root), "settle", "gull", "or", "puffin", "--ask", text="a\n")
    assert "2 items settled" in every.out
    nothing = program("-C", str(doubtful.root), "settle", "--ask", text="")
    assert nothing.code == 0 and "0 items settled" in nothing.out


@pytest.mark.parametrize(
    ("words", "text"),
    [
        (("--set", "year=1993"), "--set needs ITEMS"),
        (("kelp", "--set", "yaer=1993"), "movie has no field “yaer”; did you mean “year”?"),
        (("kelp", "--set", "year=93"), "a year from 1888 to"),
        (("kelp", "--set", "year=soon"), "“year” is a number"),
        (("kelp", "--set", "1993"), "“1993” is not FIELD=VALUE"),
        (("kelp", "--set", "title=Kelp"), "still has no year; add --set year=… as well"),
        (("kelp", "--set", "kind=moovie"), "There is no kind “moovie”; did you mean “movie”?"),
        (("nowhere", "--set", "year=1993"), "Nothing matches “nowhere”"),
        (("--unset",), "--unset needs ITEMS"),
    ],
)
def test_wrong_answers_are_refused(doubtful: Collection, words: tuple[str, ...], text: str) -> None:
    assert text in doubtful.ok("settle", *words, code=2).err
    assert doubtful.ok("history", "--json").out == ""


def test_another_kind_by_hand(doubtful: Collection) -> None:
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "kind=episode", "show=Kelp", "season=1", "episode=2")
    (item,) = doubtful.ok("find", "kelp", "--json").lines
    assert item["kind"] == "episode" and item["fields"] == {"show": "Kelp", "season": 1, "episode": 2}


def test_an_answer_outlives_a_crash_before_the_catalogue_has_it(doubtful: Collection) -> None:
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "year=1993")
    with opened(find(doubtful.root), write=True) as catalogue:  # as if killed between the journal and the catalogue
        (item,) = catalogue.items.ask(Has("kelp ballad"))
        catalogue.writer.settle(item.id, None)
        catalogue.set_acting(acting=True)
    doubtful.ok("scan")
    assert state_of(doubtful, "kelp ballad.mp4") == ("settled", {"title": "Kelp Ballad", "year": 1993})


def test_shows_that_share_a_name_get_their_year(tree: Tree, tmp_path: Path) -> None:
    collection = tree(["Signal House E01.mkv"])
    (tmp_path / "list.csv").write_text(LIST)
    collection.ok("scan")
    collection.ok("titles", "add", str(tmp_path / "list.csv"))
    (question,) = collection.ok("settle", "--json", code=1).lines
    assert not question["clear"] and len(question["candidates"]) == 2
    program("-C", str(collection.root), "settle", "--ask", text="1\n")
    fields = state_of(collection, "Signal House E01.mkv")[1]
    assert fields["show"] == "Signal House" and fields["show_year"] in (1961, 2004)


def test_answers_come_back_when_the_catalogue_was_deleted(doubtful: Collection) -> None:
    doubtful.ok("settle", "kelp ballad.mp4", "--set", "year=1993")
    doubtful.ok("settle", "Summer of 1962.mkv", "--set", "year=2004")
    doubtful.ok("settle", "Summer of 1962.mkv", "--unset")
    doubtful.ok("settle", "the tern watchers 1985.mp4", "--set", "year=1985")
    doubtful.run("tidy", "--now")
    with open(doubtful.root / ".magpie" / "notes.jsonl", "a") as notes:
        notes.write('{"path": "cut off')
    for file in (doubtful.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    doubtful.ok("scan")
    assert state_of(doubtful, "Films/Kelp Ballad (1993)") == ("settled", {"title": "Kelp Ballad", "year": 1993})
    assert state_of(doubtful, "Films/The Tern Watchers (1985)")[0] == "settled"
    assert state_of(doubtful, "Summer of 1962.mkv")[0] == "doubtful"


def test_what_is_none_of_these_is_left_for_ever(tree: Tree) -> None:
    shelf = '[shelf.films]\nkind = "movie"\nfolder = "Films"\nnaming = "screen"\n'
    collection = tree(["Heap/MVI 0105.avi", "Heap/Kelp (2001).mkv"], shelf)
    collection.run("scan")
    collection.ok("settle", "Heap/MVI 0105.avi", "--set", "kind=none")
    collection.run("scan", "--full")
    assert not [question for question in collection.run("settle", "--json").lines if "MVI" in question["paths"][0]]
    plan = collection.run("tidy", "--json").json
    assert not [step for step in plan["steps"] if "MVI" in step["from"]]
    for file in (collection.root / ".magpie").glob("catalogue*"):
        file.unlink()
    collection.run("scan")
    item = next(item for item in collection.ok("find", "--json").lines if "MVI" in item["path"])
    assert (item["kind"], item["state"]) == ("unknown", "settled")


@pytest.mark.parametrize("name", ["2014-11-06.mp4", "2014-11-06 Late Quay.mp4"])
def test_a_folder_of_recordings_is_no_show(tree: Tree, name: str) -> None:
    collection = tree([f"Recordings/{name}", "Recordings/2014-11-07.mp4"], "")
    collection.run("scan")
    for item in collection.ok("find", "--json").lines:
        assert item["fields"].get("show") != "Recordings"


def test_an_undated_episode_of_shows_that_share_a_name_is_a_question(tree: Tree) -> None:
    collection = tree(["Series/Lamp Room (1998)/Lamp Room S01E01.mkv", "Series/Lamp Room/Lamp Room S02E03.mkv"])
    collection.ok("scan")
    assert state_of(collection, "S02E03")[0] == "clear"
    collection.put("Series/Lamp Room (2011)/Lamp Room S01E01.mkv")
    collection.ok("scan")
    (question,) = collection.ok("settle", "--json", code=1).lines
    assert question["choices"] == ["Lamp Room (1998)", "Lamp Room (2011)"]
    collection.put("Series/Lamp Room S01E04.mkv")
    collection.ok("scan")
    assert state_of(collection, "S01E04")[0] == "doubtful"
    program("-C", str(collection.root), "settle", "--ask", text="2\n")
    assert state_of(collection, "S02E03") == (
        "settled", {"show": "Lamp Room", "show_year": 2011, "season": 2, "episode": 3}
    )  # fmt: skip


def test_when_only_one_show_of_a_name_is_left_nothing_is_asked(tree: Tree) -> None:
    shows = ["Series/Lamp Room (1998)/Lamp Room S01E01.mkv", "Series/Lamp Room (2011)/Lamp Room S01E01.mkv"]
    collection = tree([*shows, "Series/Lamp Room/Lamp Room S02E03.mkv"])
    collection.ok("scan")
    assert state_of(collection, "S02E03")[0] == "doubtful"
    (collection.root / "Series/Lamp Room (2011)").rename(collection.root / "Series/Tern Watch (2011)")
    (collection.root / shows[1].replace("Lamp Room (2011)", "Tern Watch (2011)")).rename(
        collection.root / "Series/Tern Watch (2011)/Tern Watch S01E01.mkv"
    )
    collection.ok("scan")
    assert state_of(collection, "S02E03")[0] == "clear"
    assert not collection.ok("settle", "--json").lines


@pytest.fixture
def listed(tree: Tree, tmp_path: Path) -> Collection:
    names = ["The Old Quay (1971).mkv", "Seagrass (1980).mkv", "Gale (1999).mkv", "Harbour Men S01E02 - The Storm.mkv"]
    collection = tree([f"Heap/{name}" for name in names])
    rows = [
        "kind,title,year,title de,season,episode,episode title", "movie,The Old Quay,1972,Der alte Kai,,,",
        "movie,Seagrass,1980,Seegras,,,", "show,Harbour Men,1990,,1,2,The Flood",
    ]  # fmt: skip
    (tmp_path / "list.csv").write_text("\n".join(rows))
    collection.ok("scan")
    collection.ok("titles", "add", str(tmp_path / "list.csv"))
    return collection


def test_lists_that_have_a_clear_item_otherwise_are_said(listed: Collection) -> None:
    questions = {q["read"].get("title") or q["read"]["show"]: q for q in listed.ok("settle", "--json", code=1).lines}
    assert questions.keys() == {"The Old Quay", "Harbour Men"}
    assert questions["The Old Quay"]["reason"] == "listed otherwise"
    assert questions["The Old Quay"]["choices"] == ["The Old Quay (1972)"]
    listed.ok("settle", "--auto")
    assert state_of(listed, "The Old Quay")[1]["year"] == 1971, "nobody but a person decides"
    program("-C", str(listed.root), "settle", "--ask", text="1\n1\n")
    assert state_of(listed, "The Old Quay")[1]["year"] == 1972
    assert state_of(listed, "Harbour Men")[1]["episode_title"] == "The Flood"
    assert not listed.ok("settle", "--json").lines


def test_what_is_right_as_it_is_read_is_asked_once(listed: Collection) -> None:
    listed.ok("settle", "--accept", "listed otherwise")
    assert state_of(listed, "The Old Quay") == ("settled", {"title": "The Old Quay", "year": 1971})
    assert not listed.ok("settle", "--json").lines


def test_which_languages_title_wins_is_a_setting(listed: Collection) -> None:
    with open(listed.root / "magpie.toml", "a") as config:
        config.write('\n[titles]\nlanguage = "de"\n')
    found = {q["read"].get("title"): q["choices"] for q in listed.ok("settle", "--json", code=1).lines}
    assert found["Seagrass"] == ["Seegras (1980)"] and found["The Old Quay"] == ["Der alte Kai (1972)"]
    listed.ok("titles", "search", "seagrass")
    with open(listed.root / "magpie.toml", "a") as config:
        config.write('language = "german"\n')
    assert "line" in listed.ok("settle", code=2).err


def test_one_goes_back_to_a_question_and_answers_it_otherwise(tree: Tree) -> None:
    collection = tree(["a/Kelp 1985.mp4", "b/Quay 1990.mp4"])
    collection.ok("scan")
    answer = program("-C", str(collection.root), "settle", "--ask", text="b\nt Kelp (1984)\nb\nt Kelp (1983)\nl\n")
    assert "This is the first question" in answer.err and "settled: Kelp (1983)" in answer.out
    assert state_of(collection, "a/Kelp 1985.mp4")[1] == {"title": "Kelp", "year": 1983}
    (left,) = (item for item in collection.ok("find", "--json").lines if "Quay" in item["path"])
    assert (left["kind"], left["state"]) == ("unknown", "settled")
    assert not collection.ok("settle", "--json").lines


def test_what_is_asked_about_is_described(tree: Tree) -> None:
    collection = tree(["a/Kelp 1985.mp4"])
    collection.ok("scan")
    out = program("-C", str(collection.root), "settle", "--ask", text="q\n").out
    assert "a/Kelp 1985.mp4  15" in out and "never ask again" in out
