"""Other forms by outside programs: proved, or nothing has happened; stopped and killed in the middle."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from lazy_magpie.change.failpoints import VARIABLE
from tests.conftest import Collection, picture, program

Tree = Callable[..., Collection]
GAMES = '[shelf.games]\nkind = "game"\nfolder = "Games"\n'
DISCPACK = [sys.executable, "-m", "lazy_magpie.demo.disc_packer"]


def _quoted(words: list[str]) -> str:
    return "[" + ", ".join(f'"{word}"' for word in words) + "]"


CONVERT = (
    f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\n'
    f"command = {_quoted([*DISCPACK, '{source}', '{result}'])}\n"
)
PROVED = CONVERT + f"back = {_quoted([*DISCPACK, '--extract', '{source}', '{result}'])}\n"


@pytest.fixture
def discs(tree: Tree) -> Collection:
    """Twenty discs in two parts, and a play list of two."""
    collection = tree([], PROVED)
    for number in range(20):
        parts = [f"Gull {number} (Track {track}).bin" for track in (1, 2)]
        for part in parts:
            collection.put(f"Games/{part}", text=part * 100)
        lines = [
            f'FILE "{part}" BINARY\n  TRACK 0{at} MODE1/2352\n    INDEX 01 00:00:00\n'
            for at, part in enumerate(parts, 1)
        ]
        collection.put(f"Games/Gull {number}.cue", text="".join(lines))
    collection.put("Games/all.m3u", text="Gull 0.cue\nGull 1.cue\n")
    collection.ok("scan")
    return collection


def _convert(collection: Collection, *words: str, code: int = 0) -> str:
    answer = collection.ok("convert", "kind", "is", "game", "--by", "discs", "--now", *words, code=code)
    return answer.out + answer.err


def test_discs_become_one_file_each_and_come_back(discs: Collection) -> None:
    before = picture(discs.root)
    _convert(discs)
    assert discs.files() == {"Games/all.m3u", *(f"Games/Gull {number}.gdisc" for number in range(20))}
    assert (discs.root / "Games/all.m3u").read_text() == "Gull 0.gdisc\nGull 1.gdisc\n"
    discs.ok("scan")
    assert "Nothing to convert" in _convert(discs)
    discs.ok("undo")
    assert picture(discs.root) == before


def test_a_game_on_several_discs_is_a_file_a_disc(tree: Tree) -> None:
    collection = tree([], PROVED)
    for disc in (1, 2, 3):
        collection.put(f"Games/Gull (Disc {disc}).bin")
        sheet = f'FILE "Gull (Disc {disc}).bin" BINARY\n  TRACK 01 MODE1/2352\n    INDEX 01 00:00:00\n'
        collection.put(f"Games/Gull (Disc {disc}).cue", text=sheet)
    collection.ok("scan")
    _convert(collection)
    assert collection.files() == {f"Games/Gull (Disc {disc}).gdisc" for disc in (1, 2, 3)}


def test_all_files_of_a_thing_become_one_where_the_program_takes_all(tree: Tree) -> None:
    collection = tree(["Games/Gull (Disc 1).bin", "Games/Gull (Disc 2).bin"], "")
    command = ["sh", "-c", 'out=$1; shift; cat "$@" > "$out"', "join", "{result}", "{sources}"]
    text = GAMES + f'[convert.discs]\ntakes = ["bin"]\nmakes = "all"\ncommand = {json.dumps(command)}\n'
    (collection.root / "magpie.toml").write_text(text)
    collection.ok("scan")
    _convert(collection, "--trust")
    (one,) = collection.files()
    assert (collection.root / one).read_text() == "Games/Gull (Disc 1).binGames/Gull (Disc 2).bin"


def test_a_sheet_that_is_named_besides_is_no_thing_of_its_own(discs: Collection) -> None:
    paths = sorted(path for path in discs.files() if "Gull 7" in path)
    plan = discs.ok("convert", *paths, "--by", "discs", "--json").json
    assert [step["do"] for step in plan["steps"]] == ["convert", "hold", "hold", "hold"]
    plan = discs.ok("pack", *paths, "--json").json
    assert [step["do"] for step in plan["steps"]] == ["pack", "hold", "hold", "hold"]


def _configured(collection: Collection, command: list[str], more: str = "") -> None:
    text = f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\ncommand = {_quoted(command)}\n{more}'
    (collection.root / "magpie.toml").write_text(text)


@pytest.mark.parametrize(
    ("command", "more", "said"),
    [
        (["no-such-program", "{source}", "{result}"], "", "there is no program “no-such-program”"),
        (["false", "{source}", "{result}"], "", "failed"),
        (["true", "{source}", "{result}"], "", "made nothing"),
        (["cp", "{source}", "{result}"], f"back = {_quoted(['cp', '{source}', '{result}'])}\n", "is not what it was"),
        (["cp", "{source}", "{result}"], 'check = ["false", "{result}"]\n', "failed"),
        (["sh", "-c", "sleep 600", "{source}", "{result}"], 'minutes = "1"\n', "stopped"),
    ],
)
def test_what_fails_or_is_not_proved_changes_nothing(
    discs: Collection, command: list[str], more: str, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    _configured(discs, command, more)
    before = picture(discs.root)
    if said == "stopped":
        monkeypatch.setattr(time, "monotonic", _quick(time.monotonic))
        said = "took longer"
    assert said in _convert(discs, code=1)
    assert picture(discs.root) == before
    assert not list((discs.root / ".magpie").glob("work/*"))


def _quick(real: Callable[[], float]) -> Callable[[], float]:
    """Return a clock that runs a thousand times too fast."""
    start = real()
    return lambda: start + (real() - start) * 1000


def test_without_a_proof_the_original_stays_unless_it_is_trusted(discs: Collection) -> None:
    (discs.root / "magpie.toml").write_text(CONVERT)
    assert "which nothing proves" in _convert(discs)
    assert "Games/Gull 0.cue" in discs.files() and "Games/Gull 0.gdisc" in discs.files()
    discs.ok("undo")
    _convert(discs, "--trust")
    assert "Games/Gull 0.cue" not in discs.files()


@pytest.mark.parametrize("point", ["convert-made", "placing:3", "batch-done", "steps-written", "pack-written"])
def test_killed_in_the_middle_the_next_command_puts_it_right(discs: Collection, point: str) -> None:
    before = picture(discs.root)
    words = ["pack", "kind", "is", "game"] if "pack" in point else ["convert", "kind", "is", "game", "--by", "discs"]
    killed = program("-C", str(discs.root), *words, "--now", env={VARIABLE: point})
    assert killed.code == -9
    for _ in range(50):  # a program that was just being started may hold the lock for a moment
        if "is at work" not in (found := discs.run("scan")).err and found.code != 3:
            break
        time.sleep(0.1)
    assert not list((discs.root / ".magpie").glob("work/*")), found
    if discs.ok("history", "--json").lines:
        discs.run("redo")
        discs.ok("undo")
    assert picture(discs.root) == before


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('takes = ["a"]\nmakes = "b"\n', "has no “command”"),
        ('takes = ["a"]\nmakes = "b"\ncommand = ["x", "{source}"]\n', "needs {source}"),
        ('takes = ["a"]\nmakes = "b"\ncommand = ["x", "-i={sources}", "{result}"]\n', "a word of its own"),
        ('takes = ["a"]\nmakes = "b"\nminutes = "soon"\ncommand = ["x", "{source}", "{result}"]\n', "“minutes”"),
    ],
)
def test_a_wrong_declaration_is_named_with_its_line(tree: Tree, text: str, said: str) -> None:
    collection = tree([], f"[convert.one]\n{text}")
    answer = collection.ok("scan", code=2)
    assert said in answer.err and "line " in answer.err


def test_stopped_by_the_keyboard_nothing_is_left_half_done(discs: Collection) -> None:
    slow = ["sh", "-c", 'sleep 0.3; cp "$1" "$2"', "slow", "{source}", "{result}"]
    more = 'check = ["true", "{result}"]\n'
    text = f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\ncommand = {json.dumps(slow)}\n{more}'
    (discs.root / "magpie.toml").write_text(text)
    before = picture(discs.root)
    words = [str(Path(sys.executable).with_name("magpie")), "-C", str(discs.root), "convert", "kind", "is", "game"]
    running = subprocess.Popen([*words, "--by", "discs", "--now"], stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
    until = time.monotonic() + 60
    while time.monotonic() < until and not list((discs.root / "Games").glob("*.gdisc")):
        time.sleep(0.05)
    running.send_signal(signal.SIGINT)
    out, _ = running.communicate(timeout=60)
    assert running.returncode == 1 and b"stopped" in out.lower()
    assert not list((discs.root / ".magpie").glob("work/*"))
    assert 0 < len(list((discs.root / "Games").glob("*.gdisc"))) < 20
    discs.ok("undo")
    assert picture(discs.root) == before
