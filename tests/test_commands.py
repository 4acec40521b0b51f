"""The commands as a person and a program meet them: help, JSON, completion, scanning, finding, showing."""

from __future__ import annotations

import json
import os
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from lazy_magpie import __version__
from lazy_magpie.cli.commands import COMMANDS
from tests.conftest import SHELVES, Collection, browsing, program
from tests.lists import Set, put_bytes, xml_list

Tree = Callable[..., Collection]
DOCS = Path(__file__).parent.parent / "docs"


def test_version_and_help_as_installed() -> None:
    assert program("--version").out == f"magpie {__version__}\n"
    text = program("--help").out
    assert all(f"  {name} " in text for name in COMMANDS if name != "help")
    assert max(map(len, text.splitlines())) <= 110 and "Exit codes" in text
    assert program().code == 0


@pytest.mark.parametrize("name", COMMANDS)
def test_each_command_has_help_with_two_examples(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as done:
        Collection(Path()).run(name, "--help")
    assert done.value.code == 0


@pytest.mark.parametrize("name", COMMANDS)
def test_help_shows_examples(name: str) -> None:
    from lazy_magpie.cli.parser import build

    text = next(iter(build(name)._subparsers._group_actions[0].choices.items()))  # type: ignore[union-attr]
    help_text = build(name)._subparsers._group_actions[0].choices[name].format_help()  # type: ignore[union-attr,index]
    assert text and len(re.findall(rf"^  (?:.*\| )?magpie {name}|magpie {name}", help_text, re.M)) >= 2


@pytest.mark.parametrize(("shell", "text"), [("bash", "complete"), ("zsh", "#compdef"), ("tcsh", "tcsh")])
def test_completion(shell: str, text: str) -> None:
    out = program("--completion", shell).out
    assert text in out and "tidy" in out and "scan" in out


def test_options_stand_before_or_behind_the_command(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    before = program("--json", "-C", str(collection.root), "find").out
    assert before == program("find", "--json", "-C", str(collection.root)).out
    assert json.loads(before)["path"] == "Kelp (2001).mkv"


# --- start -----------------------------------------------------------------------------------------------------------


def test_start_proposes_the_folders_that_are_there(tmp_path: Path) -> None:
    for folder in ("Movies", "TV Shows", "Backup 2019", "Music"):
        (tmp_path / folder).mkdir()
    collection = Collection(tmp_path)
    answer = collection.ok("start", "--json").json
    assert [(s["kind"], s["folder"], s["new"]) for s in answer["shelves"]] == [
        ("movie", "Movies", False),
        ("episode", "TV Shows", False),
        ("track", "Music", False),
    ]
    assert answer["leave"] == ["Backup 2019"]
    text = (tmp_path / "magpie.toml").read_text()
    assert 'folder = "Movies"' in text and text.count("#") > 8
    collection.ok("scan")


@pytest.mark.parametrize(
    ("folders", "shelf", "asked"),
    [
        (["Audiobooks", "Music"], "Music", []),
        (["Hörbücher", "Musik", "Konzerte"], "Musik", []),
        (["Music", "Musique"], "Music", ["Musique"]),
    ],
)
def test_start_takes_the_shelf_of_all_songs_and_names_what_fits_as_well(
    tmp_path: Path, folders: list[str], shelf: str, asked: list[str]
) -> None:
    for folder in folders:
        (tmp_path / folder).mkdir()
    answer = program("start", str(tmp_path), "--json")
    assert {one["folder"] for one in answer.json["shelves"] if one["kind"] == "track"} == {shelf}
    assert all(f"“{folder}”" in answer.err for folder in asked) and ("would do as well" in answer.err) == bool(asked)


def _shelves(root: Path, *files: str) -> list[tuple[str, str, bool]]:
    """Return the shelves that are proposed for a folder that holds some files: kind, folder, whether it is new."""
    Collection(root).put(*files)
    found = program("start", str(root), "--json").json["shelves"]
    return [(one["kind"], one["folder"], one["new"]) for one in found]


_VIDEO = [("movie", "Films", True), ("episode", "Series", True)]
_FONTS = [f"ttf/Gull{number}.ttf" for number in range(40)]
_ICONS = [f"stuff/16x16/kite {number}.png" for number in range(90)]


@pytest.mark.parametrize(
    ("files", "shelves"),
    [
        ([], _VIDEO),
        ([*_FONTS, *_ICONS], [("picture", "stuff", False), ("font", "ttf", False)]),
        ([f"a {number}/tune {number}.ogg" for number in range(30)], [("track", "Music", True)]),
        ([f"a {number}.ogg" for number in range(9)], []),
        (["Kites (1990).mkv", *_FONTS], [("font", "ttf", False), *_VIDEO]),
        ([*_ICONS, "Music/a.mp3"], [("picture", "stuff", False), ("track", "Music", False)]),
        ([f"Kits/Sails/sail {number}.png" for number in range(99)], [("kit", "Kits", False)]),
        ([f"Backup 2019/{number}.png" for number in range(99)], []),
        ([*(f"mixed/{number}.png" for number in range(60)), *(f"mixed/{number}.ttf" for number in range(60))],
         [("font", "Fonts", True), ("picture", "Pictures", True)]),
        ([f".cache/{number}.png" for number in range(99)], _VIDEO),
    ],
    ids="nothing fonts-icons sounds few films-fonts by-name kits backup mixed hidden".split(),
)  # fmt: skip
def test_start_proposes_shelves_for_what_is_there(
    tmp_path: Path, files: list[str], shelves: list[tuple[str, str, bool]]
) -> None:
    found = _shelves(tmp_path, *files)
    assert sorted(found) == sorted(shelves)
    counts = [sum(path.startswith(f"{folder}/") for path in files) for _, folder, new in found if not new]
    assert counts == sorted(counts, reverse=True)
    Collection(tmp_path).ok("scan")


def test_start_names_a_folder_with_quotes(tmp_path: Path) -> None:
    root = tmp_path / 'Ida "Marrow"\\ kites'
    root.mkdir()
    Collection(tmp_path).ok("start", str(root))
    Collection(root).ok("scan")


# --- scan ------------------------------------------------------------------------------------------------------------


def test_the_second_scan_finds_nothing_new(tree: Tree) -> None:
    collection = tree([f"a{n}/Dockside S01E{n:02}.mkv" for n in range(20)])
    assert collection.ok("scan", "--json").json["new"] == 20
    second = collection.ok("scan", "--json").json
    assert {second[key] for key in ("new", "changed", "moved", "missing")} == {0}
    assert set(second["seconds"]) == {"walk", "read", "identify", "index", "all"}


def test_a_move_by_other_hands_keeps_the_item(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "b/notes.txt"])
    collection.ok("scan")
    (before,) = collection.ok("find", "kelp", "--json").lines
    os.rename(collection.root / "a/Kelp (2001).mkv", collection.root / "b/Kelp 2001 dvdrip.mkv")
    moved = collection.ok("scan", "--json").json
    assert (moved["moved"], moved["new"], moved["missing"]) == (1, 0, 0)
    (after,) = collection.ok("find", "kelp", "--json").lines
    assert after["id"] == before["id"] and after["path"] == "b/Kelp 2001 dvdrip.mkv"


def test_what_is_gone_is_counted_and_comes_back(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv"])
    collection.ok("scan")
    os.rename(collection.root / "a", collection.root.parent / "away")
    assert collection.ok("scan", "--json").json["missing"] == 1
    assert collection.ok("find", "--json").lines == []
    os.rename(collection.root.parent / "away", collection.root / "a")
    collection.ok("scan")
    assert [item["path"] for item in collection.ok("find", "--json").lines] == ["a/Kelp (2001).mkv"]


def test_a_part_can_be_scanned(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "b/Tern (2002).mkv"])
    assert collection.ok("scan", "a", "--json").json["files"] == 1
    assert collection.ok("scan", "--json").json["new"] == 1


@pytest.mark.parametrize("first", [("scan",), ("scan", "--full")])
def test_a_changed_configuration_is_followed_by_the_next_scan(tree: Tree, first: tuple[str, ...]) -> None:
    collection = tree(["Games/Tern Mini/Bandit (Europe).trn"])
    collection.ok(*first)
    (item,) = collection.ok("find", "bandit", "--json").lines
    assert item["fields"]["system"] == "Tern Mini"
    with (collection.root / "magpie.toml").open("a") as config:
        config.write('\n[system.tern8]\nfolders = ["Tern Mini"]\nendings = ["trn"]\n')
    collection.ok("scan")
    (item,) = collection.ok("find", "bandit", "--json").lines
    assert item["fields"]["system"] == "tern8"


def test_a_changed_file_is_seen(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    (collection.root / "Kelp (2001).mkv").write_text("longer than it was before")
    assert collection.ok("scan", "--json").json["changed"] == 1


# --- find, show, explain ---------------------------------------------------------------------------------------------


@pytest.fixture
def small(tree: Tree) -> Collection:
    collection = tree(
        ["Élan (1974).mkv", "Dockside S01E02 - Fog.mkv", "Dockside S01E02 - Fog.en.srt", "kelp 1985.mp4", "x/song.ch8"]
    )
    collection.ok("scan")
    return collection


@pytest.mark.parametrize(
    ("words", "paths"),
    [
        ("elan", {"Élan (1974).mkv"}),
        ("DOCKSIDE fog", {"Dockside S01E02 - Fog.mkv"}),
        ("kind is movie", {"Élan (1974).mkv", "kelp 1985.mp4"}),
        ("kind is movie state isnt clear", {"kelp 1985.mp4"}),
        ("kind is movie not elan", {"kelp 1985.mp4"}),
        ("elan or fog", {"Élan (1974).mkv", "Dockside S01E02 - Fog.mkv"}),
        ("( elan or fog ) and kind is episode", {"Dockside S01E02 - Fog.mkv"}),
        ("x", {"x/song.ch8"}),
        ("nothing", set()),
        ("100%", set()),
    ],
)
def test_find(small: Collection, words: str, paths: set[str]) -> None:
    assert {item["path"] for item in small.ok("find", *words.split(), "--json").lines} == paths


def test_find_prints_a_table(small: Collection) -> None:
    out = small.ok("find", "fog").out
    head = ["what", "size", "state", "resolution", "length", "picture_codec", "path"]
    assert "Dockside S01E02 Fog" in out and out.splitlines()[0].split() == head


def test_companions_belong_to_their_item(small: Collection) -> None:
    (item,) = small.ok("find", "fog", "--json").lines
    assert [(file["path"], file["role"]) for file in item["files"]] == [
        ("Dockside S01E02 - Fog.mkv", "main"),
        ("Dockside S01E02 - Fog.en.srt", "subtitles"),
    ]


def test_show_says_where_it_should_be(small: Collection) -> None:
    (shown,) = small.ok("show", "elan", "--json").lines
    assert shown["place"] == "Films/Élan (1974)/Élan (1974).mkv"
    assert {evidence["field"] for evidence in shown["why"]} >= {"title", "year"}
    assert "in doubt: bare year: 1985" in small.ok("show", "kelp", code=1).out
    assert small.ok("show", shown["id"]).out.startswith("Élan (1974)")


def test_show_tells_the_first_name_after_a_change(small: Collection) -> None:
    small.run("tidy", "--now")
    assert "Dockside S01E02 - Fog.mkv" in small.ok("show", "fog").out
    assert ["first_path", "Dockside S01E02 - Fog.mkv", "disk"] in small.ok("show", "fog", "--json").json["kept"]


def test_explain_needs_no_collection(tmp_path: Path) -> None:
    answer = program("explain", "The.Salt.Orchard.1987.720p.mkv", cwd=tmp_path)
    assert answer.code == 0 and "movie, clear" in answer.out and "from name “1987”" in answer.out
    lines = program("explain", "--json", "-", cwd=tmp_path, text="Kelp (2001).mkv\nback\\\\slash (2001).mkv\n").lines
    assert [line["fields"]["title"] for line in lines] == ["Kelp", "back\\\\slash".title()]
    lines = program("explain", "--json", "-0", cwd=tmp_path, text="new\nline (2001).mkv\0Kelp 1985.mkv\0").lines
    assert [line["state"] for line in lines] == ["clear", "doubtful"]
    lines = program("explain", "--json", "-0", "-", cwd=tmp_path, text="new\nline (2001).mkv\0Kelp 1985.mkv\0").lines
    assert [line["path"] for line in lines] == ["new\\x0aline (2001).mkv", "Kelp 1985.mkv"]


# --- the shapes ------------------------------------------------------------------------------------------------------


def _schemas() -> dict[str, dict[str, object]]:
    text = (DOCS / "json.md").read_text()
    return {name: json.loads(block) for name, block in re.findall(r"## `([\w ]+)`.*?```json\n(.*?)```", text, re.S)}


def _take_wrong(collection: Collection, sheet: Path) -> Any:
    sheet.write_text(sheet.read_text().replace("Tern.mkv", "Other.mkv", 1))
    return collection.ok("sheet", "take", str(sheet), "--json", code=1).json


def _matched(collection: Collection) -> dict[str, list[Any]]:
    """Return what `match` prints for a list of a game that is there and one that is not."""
    here = [Set("Gull", {"Gull.gb": b"gull" * 99}), Set("Kelp", {"a.bin": b"kelp" * 99, "b.bin": b"tern" * 99})]
    put_bytes(collection.root / "Lists/pocket.xml", xml_list("Pocket", here).encode())
    put_bytes(collection.root / "Pocket/Gull.gb", b"gull" * 99)
    put_bytes(collection.root / "Pocket/a.bin", b"kelp" * 99)
    with (collection.root / "magpie.toml").open("a") as file:
        file.write('[list.pocket]\nfile = "Lists/pocket.xml"\nfolder = "Pocket"\n')
    collection.ok("scan")
    return {
        "match": collection.ok("match", "--json", code=1).lines,
        "match total": collection.ok("match", "--total", "--json", code=1).lines,
    }


def _mirrored(collection: Collection) -> list[Any]:
    collection.root.with_name("backup").mkdir()
    lines: list[Any] = collection.ok("mirror", str(collection.root.with_name("backup")), "--json", code=1).lines
    return lines


def _sent(collection: Collection) -> Any:
    """Return what `send` prints for a card on which not all fits."""
    card = collection.root / "Card"
    card.mkdir()
    with (collection.root / "magpie.toml").open("a") as file:
        file.write('[target.card]\nfolder = "Card"\nspace = "40K"\nunit = "2K"\n')
    put_bytes(collection.root / "Reef (1970).mkv", b"r" * 90_000)
    collection.ok("scan")
    return collection.ok("send", "card", "--json").json


def _browsed(collection: Collection) -> Any:
    with browsing(collection) as url:
        return {"url": url}


def test_every_shape_is_as_the_docs_say(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv", "b/Kelp.2001.720p.mkv", "Dockside S01E01.mkv", "Tern.mkv"], SHELVES)
    collection.put("c/Oar.mkv", "d/Oar.mkv", text="the same")
    schemas = _schemas()
    (collection.root / "list.csv").write_text("kind,title,year\nmovie,Tern,1985\n")
    hold = ("copies", "c", "d", "--hold", "--keep", "folder:c", "--now")
    runs = {
        "scan": [collection.ok("scan", "--json").json],
        "copies": collection.ok("copies", "--json", code=1).lines,
        "forget": [collection.ok("forget", "--json").json],
        "find": collection.ok("find", "--json").lines,
        "tag list": (collection.ok("tag", "colour", "seen", "green"), collection.ok("tag", "list", "--json").lines)[1],
        "show": collection.ok("show", "kelp", "--json").lines,
        "explain": collection.ok("explain", "--json", "Tern.mkv", code=1).lines,
        "titles add": [collection.ok("titles", "add", str(collection.root / "list.csv"), "--json").json],
        "titles list": collection.ok("titles", "list", "--json").lines,
        "titles search": collection.ok("titles", "search", "tern", "--json").lines,
        "settle": collection.ok("settle", "--json", code=1).lines,
        "held": (collection.ok(*hold), collection.ok("held", "--json").lines)[1],
        "sheet make": [collection.ok("sheet", "make", str(collection.root / "all.csv"), "--json").json],
        "sheet take": [_take_wrong(collection, collection.root / "all.csv")],
        "view": [collection.ok("view", "make", "films", "kelp", "--json").json],
        "view list": (collection.ok("apply"), collection.ok("view", "list", "--json").lines)[1],
        "status": [collection.ok("status", "--json").json],
        "check": collection.ok("check", "--json", code=1).lines,
        **_matched(collection),
        "intake": [collection.ok("intake", "c", "--json").json],
        "send": [_sent(collection)],
        "mirror": _mirrored(collection),
        "tidy": [collection.ok("tidy", "--json", code=1).json],
        "plans": collection.ok("plans", "--json").lines,
        "apply": [collection.ok("apply", "--json").json],
        "undo": [collection.ok("undo", "--json").json],
        "history": collection.ok("history", "--json").lines,
        "find page": [collection.ok("find", "--page", str(collection.root.parent / "wall.html"), "--json").json],
        "report": collection.ok("report", "--json").lines,
        "report change": collection.ok("report", "--change", "2", "--json").lines,
        "browse": [_browsed(collection)],
    }
    assert set(runs) == set(schemas)
    for name, values in runs.items():
        assert values, name
        for value in values:
            jsonschema.validate(value, schemas[name], cls=jsonschema.Draft202012Validator)
