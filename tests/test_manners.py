"""The manners of a terminal tool: tables that fit, colour only where it is wanted, plans that grow old, one screen of
status, help, and the words that people try."""

from __future__ import annotations

import contextlib
import fcntl
import os
import pty
import re
import struct
import sys
import termios
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.cli.commands import COMMANDS, MEANT
from lazy_magpie.cli.main import main
from lazy_magpie.cli.manual import manual
from lazy_magpie.cli.table import CUT, Table, cell_width, fitted, shortened
from tests.conftest import Collection, program

Tree = Callable[..., Collection]
LONG = "The Unusually Long and Winding Ballad of the Lighthouse Keeper's Second Daughter (1987)"
ESCAPE = re.compile(r"\x1b")
FILMS = '[shelf.films]\nkind = "movie"\nfolder = "Films"\nnaming = "screen"\n'


def on_terminal(width: int, *words: str, env: dict[str, str] | None = None, typed: bytes = b"") -> str:
    """Run the installed program on a terminal of so many columns, type something, and return all that it shows."""
    command = str(Path(sys.executable).with_name("magpie"))
    child, end = pty.fork()
    if child == 0:
        os.environ.pop("COLUMNS", None)
        os.environ.update({"TERM": "xterm-256color", "PAGER": "cat", **(env or {})})
        os.execv(command, [command, *words])
    fcntl.ioctl(end, termios.TIOCSWINSZ, struct.pack("HHHH", 50, width, 0, 0))
    os.write(end, typed)
    shown = b""
    while True:
        try:
            some = os.read(end, 65536)
        except OSError:
            break
        if not some:
            break
        shown += some
    os.waitpid(child, 0)
    os.close(end)
    return shown.decode().replace("\r\n", "\n")


@pytest.fixture
def wide(tree: Tree) -> Collection:
    """Return a collection with names that are wider than a terminal, and deep folders."""
    deep = "Old disk/From the attic/Boxes of the second move/Video cassettes"
    collection = tree(
        [
            f"{deep}/{LONG}.mkv",
            f"{deep}/Kelp (2001).mkv",
            "Series/Gull Lane/Season 1/Gull Lane S01E01.mkv",
            "Heap/a.srt",
        ],
        FILMS,
    )
    collection.ok("scan")
    return collection


# --- tables ----------------------------------------------------------------------------------------------------------

WORDS = st.text("abcdefgh é水", min_size=1, max_size=30)


@given(
    st.lists(st.tuples(WORDS, st.integers(0, 10**9), st.lists(WORDS, min_size=1, max_size=6)), min_size=1),
    st.integers(20, 160),
)
def test_no_number_and_no_name_is_ever_cut(rows: list[tuple[str, int, list[str]]], width: int) -> None:
    table = Table(
        ("title", "size", "path"),
        [(title, f"{size:,}", "/".join(path)) for title, size, path in rows],
        ("size",),
        ("size",),
    )
    columns, shown, _ = fitted(table, width)
    for (_, size, path), row in zip(rows, shown, strict=True):
        assert "size" not in columns or row[columns.index("size")] == f"{size:,}"
        assert row[-1].split("/")[-1] == path[-1]


@given(st.lists(WORDS, min_size=1, max_size=8), st.integers(5, 100))
def test_a_path_is_shortened_at_its_folders(parts: list[str], room: int) -> None:
    path = "/".join(parts)
    text = shortened(path, room)
    assert text == path if cell_width(path) <= room else text.split("/")[-1] == parts[-1]
    assert set(text.split("/")) <= {*parts, CUT}


@pytest.mark.parametrize("width", [60, 80, 100, 140])
def test_find_fits_the_terminal(wide: Collection, width: int) -> None:
    shown = on_terminal(width, "-C", str(wide.root), "find", "--colour", "never")
    assert f"{LONG}.mkv" in shown and "Kelp (2001).mkv" in shown
    lines = [line for line in shown.splitlines() if LONG not in line]
    assert max(map(cell_width, lines)) <= width


def test_with_room_to_spare_nothing_is_cut(wide: Collection) -> None:
    assert CUT not in on_terminal(320, "-C", str(wide.root), "find", "--colour", "never")


EVERY: tuple[tuple[str, ...], ...] = (
    ("scan",), ("status",), ("find",), ("find", "--total"), ("find", "kind", "is", "movie"), ("show", "kelp"),
    ("settle",), ("explain", f"{LONG}.mkv"), ("tidy",), ("plans",), ("plans", "1"), ("apply", "1"), ("history",),
    ("undo",), ("redo",), ("check",), ("report",), ("companions",), ("rename", "kelp", "--append", "-cover"),
    ("move", "kelp", "Films"), ("hold", "kelp", "--now"), ("held",), ("unpack",), ("pack", "kelp"), ("convert",),
    ("new", "{date} Kites"), ("copies",), ("copies", "--alike"), ("intake",), ("match",), ("send",),
    ("mirror", "../mirror", "--refresh"), ("tag", "put", "seen", "kelp"), ("tag", "list"), ("titles", "list"),
    ("sheet", "make", "all.csv"), ("view", "make", "new", "kelp"), ("view", "list"), ("forget",), ("start",),
    ("demo", "--no-tour"), ("browse", "--nowhere"), ("help",), ("help", "tidy"),
)  # fmt: skip
"""What is asked of every command, one behind the other."""


def test_no_command_is_left_out() -> None:
    assert {words[0] for words in EVERY} == COMMANDS.keys()


@pytest.mark.parametrize("which", ["wide", "demo"])
def test_every_command_at_80_columns(
    which: str, request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    collection: Collection = request.getfixturevalue(which)
    monkeypatch.chdir(tmp_path)
    (tmp_path / "mirror").mkdir()
    collection.run("scan")
    for words in EVERY:
        shown = on_terminal(80, "-C", str(collection.root), *words, "--colour", "never", typed=b"\x04")
        assert "Traceback" not in shown and not ESCAPE.search(shown), words
        assert not re.search(r"\d…|…\d|…\.\w", shown), (words, "a number, a date or a file's ending is cut", shown)
        assert all(cell_width(line) <= 80 for line in shown.split("\n") if "█" in line), (words, "a bar runs over")


def test_companions_and_junk_stand_last(wide: Collection) -> None:
    wide.put("Aa/Thumbs.db", "Aa/Aa (1999).mkv")
    wide.ok("scan")
    kinds = [line.split()[0] for line in wide.ok("find").out.splitlines()[1:]]
    assert kinds.index("junk") > kinds.index("movie") and kinds[-1] in ("junk", "companion")


# --- colour ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("words", "env", "coloured"),
    [
        ((), {}, True), (("--no-colour",), {}, False), (("--color", "never"), {}, False),
        ((), {"NO_COLOR": "1"}, False), (("--colour", "always"), {"NO_COLOR": "1"}, True),
    ],
)  # fmt: skip
def test_colour_is_where_it_is_wanted(
    wide: Collection, words: tuple[str, ...], env: dict[str, str], coloured: bool
) -> None:
    for command in (("find",), ("tidy",), ("settle",), ("status",), ("scan", "--full")):
        shown = on_terminal(100, "-C", str(wide.root), *command, *words, env=env)
        assert command[0] == "scan" or bool(ESCAPE.search(shown)) is coloured, command
        assert coloured or not ESCAPE.search(shown)


def test_a_pipe_has_no_escape_code(wide: Collection) -> None:
    for command in (("find",), ("tidy",), ("settle",), ("status",), ("show", "kelp"), ("copies",)):
        answer = program("-C", str(wide.root), *command)
        assert not ESCAPE.search(answer.out + answer.err)


# --- help ------------------------------------------------------------------------------------------------------------


def test_help_is_the_same_either_way(capsys: pytest.CaptureFixture[str]) -> None:
    def said(*words: str) -> str:
        with contextlib.suppress(SystemExit):
            main(list(words))
        return capsys.readouterr().out.rstrip()

    assert program("help").out == program("--help").out
    for name in COMMANDS:
        assert said("help", name) == said(name, "--help") != ""


def test_what_people_try_is_answered_with_the_right_command() -> None:
    for word, command in (
        ("ls", "find"),
        ("search", "find"),
        ("dedupe", "copies"),
        ("organize", "tidy"),
        ("remove", "hold"),
    ):
        answer = program(word)
        assert answer.code == 2 and f"“magpie {command}" in answer.err
    assert not {word for words in MEANT.values() for word in words.split()} & COMMANDS.keys()


@pytest.mark.parametrize("shell", ["bash", "zsh", "tcsh", "fish"])
def test_completion_of_each_shell(shell: str) -> None:
    assert "tidy" in program("--completion", shell).out


def test_a_shell_without_completion_is_named() -> None:
    answer = program("--completion", "elvish")
    assert (
        answer.code == 2
        and answer.err.strip() == "magpie: No completion for “elvish”. Available: bash, zsh, tcsh, fish."
    )


def test_short_forms_and_the_end_of_options(tree: Tree) -> None:
    collection = tree(["-v (2001).mkv"], FILMS)
    assert collection.ok("scan", "-q").err == ""
    assert collection.ok("find", "-j").lines[0]["path"] == "-v (2001).mkv"
    assert "-v (2001).mkv" in collection.ok("explain", "--", "-v (2001).mkv").out


# --- status ----------------------------------------------------------------------------------------------------------


def test_status_says_how_things_stand_and_what_to_do_next(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001).mkv", "Heap/Wick.mkv"], FILMS)
    assert collection.ok("status", "--json").json["next"] == "magpie scan"
    collection.run("scan")
    first = collection.ok("status", "--json").json
    assert (first["new"], first["doubtful"], first["plans"], first["unfinished"]) == (2, 1, [], None)
    assert first["roots"][0]["files"] == 2 and first["roots"][0]["scanned"] and first["next"] == "magpie settle"
    collection.run("tidy", "--unplayable")
    assert collection.ok("status", "--json").json["plans"] == [1]
    assert "Next: magpie plans 1" in collection.ok("status").out
    collection.put("Heap/Kelp copy.mkv", text="Heap/Kelp (2001).mkv")
    collection.run("scan")
    collection.run("copies", "--keep", "older", "--hold", "--now")
    held = collection.ok("status", "--json").json["held"]
    assert held["files"] == 1 and held["bytes"] > 0


# --- plans -----------------------------------------------------------------------------------------------------------


@pytest.fixture
def films(tree: Tree) -> Collection:
    collection = tree(
        ["Heap/Kelp (2001).mkv", "Heap/Quay (1999).mkv"],
        FILMS.replace("[shelf", '[collection]\nunplayable = "file"\n[shelf'),
    )
    collection.run("scan")
    return collection


def test_a_new_plan_takes_the_place_of_one_of_its_command(films: Collection) -> None:
    films.ok("tidy")
    films.ok("tidy", "kelp")
    assert [plan["plan"] for plan in films.ok("plans", "--json").lines] == [2]
    assert "replaced by plan 2" in films.ok("plans", "1").out
    assert "no longer pending" in films.ok("apply", "1", code=2).err


def test_a_plan_older_than_a_change_is_refused(films: Collection) -> None:
    films.ok("tidy")
    films.ok("settle", "kelp", "--set", "year=2002")
    answer = films.ok("apply", code=2)
    assert "older than change 1" in answer.err and "--anyway" in answer.err
    assert "older than change 1" in films.ok("plans", "1").out
    assert films.ok("apply", "--anyway", "--json").json["done"]
    assert "applied as change 2" in films.ok("plans", "1").out


def test_a_plan_older_than_an_undo_is_refused(films: Collection) -> None:
    films.ok("settle", "kelp", "--set", "year=2002")
    films.ok("tidy")
    films.ok("undo")
    assert "older than change 1" in films.ok("apply", code=2).err


def test_the_rest_of_a_plan_is_no_older_for_its_first_part(films: Collection) -> None:
    films.ok("tidy")
    films.ok("apply", "1", "--only", "Kelp (2001)")
    assert "Applying plan 2" in films.ok("apply").err
    assert films.files() == {"Films/Kelp (2001)/Kelp (2001).mkv", "Films/Quay (1999)/Quay (1999).mkv"}


def test_at_once_and_saved_exclude_each_other(films: Collection, tmp_path: Path) -> None:
    assert "--now" in films.ok("tidy", "--now", "--save", str(tmp_path / "p.csv"), code=2).err
    assert films.files() == {"Heap/Kelp (2001).mkv", "Heap/Quay (1999).mkv"}


def test_what_is_left_says_what_to_do(tree: Tree) -> None:
    naming = '[naming.mine]\nmovie = "{title} {year}"\n' + FILMS.replace("screen", "mine")
    collection = tree(["Heap/Kelp (2001).mkv"], naming)
    collection.run("scan")
    (left,) = collection.run("tidy", "--unplayable", "--json").json["left"]
    assert "would be misread as something in doubt (bare year)" in left["why"] and "--save" in left["why"]


# --- find ------------------------------------------------------------------------------------------------------------


def test_the_first_few_and_the_other_way_round(films: Collection) -> None:
    def paths(*words: str) -> list[str]:
        return [item["path"] for item in films.ok("find", "--json", *words).lines]

    assert paths("--limit", "1") == ["Heap/Kelp (2001).mkv"]
    assert paths("--reverse") == ["Heap/Quay (1999).mkv", "Heap/Kelp (2001).mkv"]
    assert paths("--sort", "year", "--limit", "1") == ["Heap/Quay (1999).mkv"]


# --- what puzzled people ---------------------------------------------------------------------------------------------


def test_kinds_are_called_as_people_call_them(films: Collection) -> None:
    assert len(films.ok("find", "kind", "is", "film", "--json").lines) == 2


def test_a_mistyped_field_is_asked_about(films: Collection) -> None:
    assert "Did you mean the field “year”?" in films.ok("find", "yeer", "is", "1999", code=1).err


def test_a_path_that_is_not_there_is_named(films: Collection) -> None:
    assert "Nothing matches “Heap/nothere.mkv”" in films.ok("tidy", "Heap/nothere.mkv", code=2).err


def test_nothing_to_undo_is_one_sentence_however_much_is_asked(films: Collection) -> None:
    answer = program("-C", str(films.root), "undo", "-v")
    assert answer.code == 2 and "Traceback" not in answer.err and "nothing to undo" in answer.err


def test_a_condition_in_quotes_is_explained(films: Collection) -> None:
    answer = films.ok("view", "make", "sea", "kind is movie")
    assert "Nothing matches" in answer.err and "magpie view make sea kind is movie" in answer.err


def test_a_view_is_listed_once_it_is_there(films: Collection) -> None:
    films.ok("view", "make", "sea", "kind", "is", "movie")
    assert films.ok("view", "list", "--json").out == ""
    films.ok("view", "make", "sea", "kind", "is", "movie")
    films.ok("apply")
    assert [view["view"] for view in films.ok("view", "list", "--json").lines] == ["sea"]


def test_what_is_held_is_not_forgotten(films: Collection) -> None:
    films.put("Heap/Kelp copy.mkv", text="Heap/Kelp (2001).mkv")
    films.run("scan")
    films.run("copies", "--keep", "older", "--hold", "--now")
    assert films.ok("forget", "--yes", "--json").json == {"forgotten": [], "files": 0}
    films.ok("undo")
    assert "Heap/Kelp copy.mkv" in films.files()


@pytest.mark.parametrize(
    "name", [b"Od\xe9 (1999).mkv", b"back\\slash (1998).mkv", b"line\nend (1997).mkv", "é (1996).mkv".encode()]
)
def test_an_odd_name_is_printed_and_taken_back_in_one_form(tree: Tree, name: bytes) -> None:
    collection = tree([], FILMS)
    path = os.path.join(os.fsencode(collection.root), b"Heap")
    os.mkdir(path)
    Path(os.fsdecode(os.path.join(path, name))).write_bytes(b"x")
    collection.run("scan")
    written = collection.ok("find", "--json").lines[0]["path"]
    assert written in collection.ok("find").out and "\n" not in written
    assert collection.ok("find", written, "--json").lines[0]["path"] == written
    assert program("-C", str(collection.root), "show", written).code == 0
    assert program("explain", written, "--json", cwd=collection.root).code in (0, 1)
    collection.ok("settle", written, "--set", "title=Kelp", "year=1990")
    collection.ok("tag", "put", "odd", written)
    collection.ok("scan", written.rpartition("/")[0])
    collection.run("tidy", written, "--unplayable", "--now")
    collection.ok("undo")
    assert collection.ok("find", "tag", "is", "odd", "--json").lines[0]["path"] == written


def test_a_title_that_is_not_utf8_stops_nothing(tree: Tree) -> None:
    collection = tree([], FILMS)
    os.mkdir(collection.root / "Heap")
    Path(os.fsdecode(os.path.join(os.fsencode(collection.root), b"Heap/Od\xe9 (1999).mkv"))).write_bytes(b"x")
    collection.run("scan")
    collection.ok("settle", "kind", "is", "movie", "--set", "year=1998")
    collection.ok("tag", "put", "odd", "kind", "is", "movie")
    collection.ok("scan", "--full")
    for file in (collection.root / ".magpie").glob("catalogue*"):
        file.unlink()
    collection.run("scan")
    assert collection.ok("find", "--json").lines[0]["fields"]["year"] == 1998


@pytest.mark.parametrize(
    "words",
    [
        ("sheet", "make", "all.xlsx", "--identity"), ("sheet", "make", "all.csv"),
        ("view", "make", "odd", "title", "known", "--now"),
        ("tag", "put", "odd", "title", "known"), ("copies", "--hold", "--keep", "older", "--now"),
        ("copies", "--page", "c.html"),
        ("tidy", "--unplayable", "--save", "plan.csv"), ("scan", "--full"), ("settle", "--json"), ("find", "--csv"),
        ("show", "title", "known"),
        ("status",), ("history", "--json"), ("undo",), ("forget", "--yes"),
    ],
)  # fmt: skip
def test_no_command_fails_for_a_title_that_is_not_utf8(tree: Tree, words: tuple[str, ...], tmp_path: Path) -> None:
    collection = tree([], FILMS)
    os.mkdir(collection.root / "Heap")
    for name in (b"Od\xe9 (1999).mkv", b"Od\xe9 copy (1999).mkv"):
        Path(os.fsdecode(os.path.join(os.fsencode(collection.root), b"Heap", name))).write_bytes(b"x")
    collection.run("scan")
    collection.ok("settle", "kind", "is", "movie", "--set", "year=1998")
    answer = program("-C", str(collection.root), *words, cwd=tmp_path)
    assert answer.code in (0, 1, 2) and "inside magpie" not in answer.err, answer
    assert collection.run("scan", "--full").code in (0, 1), "what writes goes on"


def test_any_word_of_a_title_finds_it(films: Collection, tmp_path: Path) -> None:
    (tmp_path / "list.csv").write_text(
        "kind,title,year\nmovie,The Last Boat,1990\nmovie,Steamboats,1991\nmovie,Quay,1992\n"
    )
    films.ok("titles", "add", str(tmp_path / "list.csv"))
    for word in ("boat", "last", "last boat"):
        found = [one["title"] for one in films.ok("titles", "search", word, "--json").lines]
        assert found[0] == "The Last Boat", word
    assert "Quay" not in [one["title"] for one in films.ok("titles", "search", "boat", "--json").lines]


def test_nothing_acts_on_a_terminal(tree: Tree, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No control character in a name, a tag, a title or a list comes out raw, of no command."""
    monkeypatch.chdir(tmp_path)
    evil = "Kelp\x1b[31m\x07 (2001)"
    collection = tree([f"Heap/{evil}.mkv", f"Series/{evil}/{evil} S01E01.mkv"], FILMS)
    (tmp_path / "list.csv").write_text(f"kind,title,year\nmovie,{evil},2001\n")
    collection.run("scan")
    collection.run("titles", "add", str(tmp_path / "list.csv"))
    collection.run("settle", "kind", "is", "movie", "--set", f"title={evil}", "year=2001")
    collection.run("tag", "put", "club", "kind", "is", "movie")
    more = (
        ("find", "title", "is", evil), ("tidy", evil), ("find", "--json"), ("tag", "put", evil, "kelp"), ("show", evil),
        ("scan", "--full"), ("explain", evil), ("titles", "search", "kelp"), ("nosuch" + evil,), ("move", "kelp", evil),
    )  # fmt: skip
    (tmp_path / "mirror").mkdir()
    for words in (*EVERY, *more):
        answer = collection.run(*words)
        assert not re.search("[\x00-\x08\x0b-\x1f\x7f-\x9f]", answer.out + answer.err), words


# --- the manual, and long plans --------------------------------------------------------------------------------------


def test_the_manual_page_is_that_of_the_program() -> None:
    page = Path(__file__).parent.parent / "man" / "magpie.1"
    assert page.read_text("utf-8") == manual(), "python -m lazy_magpie.cli.manual > man/magpie.1"
    assert all(f".B magpie {name}" in manual() for name in COMMANDS if name != "help")


def test_a_long_plan_is_shown_by_the_pager(tree: Tree, tmp_path: Path) -> None:
    config = f'[collection]\nunplayable = "file"\n{FILMS}'
    collection = tree([f"Heap/Kelp of {chr(65 + n % 26)}{n // 26 * 'o'}r ({1930 + n}).mkv" for n in range(55)], config)
    collection.run("scan")
    (tmp_path / "pager").write_text("#!/bin/sh\necho PAGED; cat >/dev/null\n")
    (tmp_path / "pager").chmod(0o755)
    shown = on_terminal(80, "-C", str(collection.root), "tidy", env={"PAGER": str(tmp_path / "pager")})
    assert "PAGED" in shown and "magpie apply 1" in shown
    assert "PAGED" not in on_terminal(80, "-C", str(collection.root), "status", env={"PAGER": str(tmp_path / "pager")})
    assert "Kelp of Aoor" in on_terminal(80, "-C", str(collection.root), "plans", "1", env={"PAGER": "/no/such/pager"})


def test_explain_at_a_terminal_says_what_it_waits_for() -> None:
    shown = on_terminal(80, "explain", "--colour", "never", typed=b"Kelp (2001).mkv\n\x04")
    assert "one a line; Ctrl-D ends them" in shown and "title          Kelp" in shown


def test_a_path_on_another_drive_is_said_to_be_there(tree: Tree, tmp_path: Path) -> None:
    attic = tmp_path / "attic"
    (attic / "Films").mkdir(parents=True)
    (attic / "Films/Kelp (2001).mkv").write_text("film")
    collection = tree(["Heap/Quay (1999).mkv"], f'[root.attic]\nfolder = "{attic}"\n{FILMS}')
    collection.run("scan")
    answer = collection.run("tidy", str(attic / "Films"))
    assert "1 item on another root" in answer.out


def test_a_tag_put_on_a_thing_is_the_things(tree: Tree) -> None:
    paths = ["Designs/Needle Jetty/Kite/Kite.pes", "Designs/Needle Jetty/Kite/Kite colour chart.pdf"]
    collection = tree(paths, '[shelf.designs]\nkind = "design"\nfolder = "Designs"\n')
    collection.run("scan")
    collection.ok("tag", "put", "club", "Designs/Needle Jetty")
    (item,) = collection.ok("find", "tag", "is", "club", "--json").lines
    assert (item["kind"], len(item["files"])) == ("design", 2)
