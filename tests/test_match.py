"""Reference lists: every form read and written, folders by rules, what stands how, and what a hostile list can't do."""

from __future__ import annotations

import hashlib
import os
import zlib
from collections.abc import Callable, Sequence

import pytest

from tests.conftest import Collection, picture, program
from tests.lists import Set, contents_below, csv_list, put_bytes, xml_list, zip_bytes

Tree = Callable[..., Collection]
GULL = Set("Gull Run (World)", {"Gull Run (World).gb": b"gull" * 60})
KELP = Set("Kelp Race (USA)", {"Kelp Race (USA).gb": b"kelp" * 60})
TERN = Set("Tern Tide (Europe)", {"one.bin": b"tern1" * 60, "sub/two.bin": b"tern2" * 60})
HEAD = """[collection]
name = "Test"
leave = ["Old disk"]
[shelf.games]
kind = "game"
folder = "Games"
"""


def config(*lines: str, file: str = "Lists/pocket.xml", folder: str = "Games/{list}", name: str = "pocket") -> str:
    """Return a section for a list."""
    return "\n".join([f"[list.{name}]", f'file = "{file}"', f'folder = "{folder}"', *lines, ""])


def games(tree: Tree, sets: Sequence[Set] = (GULL, KELP, TERN), more: str = "", *lines: str) -> Collection:
    """Return a collection with one list."""
    here = tree([], HEAD + (more or config(*lines)))
    put_bytes(here.root / "Lists/pocket.xml", xml_list("Pocket", sets).encode())
    return here


def states(here: Collection, *words: str) -> dict[str, str]:
    """Return how each game stands, by its name; what no list has by its path."""
    lines = here.run("match", "--json", *words).lines
    return {line["set"] or line["path"]: line["state"] for line in lines if line["set"] is None or line["file"] is None}


def game_states(here: Collection) -> dict[str, str]:
    """Return the first line of each game."""
    found: dict[str, str] = {}
    for line in here.run("match", "--json").lines:
        found.setdefault(line["set"] or line["path"], line["state"])
    return found


def _sums(kind: str, name: str = "gull.gb") -> str:
    data = GULL.files["Gull Run (World).gb"]
    return f"{hashlib.new(kind, data, usedforsecurity=False).hexdigest()}  {name}\n"


FORMS = {
    "list.xml": xml_list("Pocket", [GULL]),
    "list.dat": xml_list("Pocket", [GULL]),
    "list.csv": csv_list("Pocket", [GULL], sums=("md5",)),
    "SHA256SUMS": _sums("sha256"),
    "SHA1SUMS": _sums("sha1"),
    "MD5SUMS": _sums("md5"),
    "own.sha256": f"SHA256 (gull.gb) = {_sums('sha256').split()[0]}\n",
    "list.sfv": f"; a remark\ngull.gb {zlib.crc32(GULL.files['Gull Run (World).gb']):08X}\n",
    "manifest-sha256.txt": _sums("sha256", "data/gull.gb"),
}


@pytest.mark.parametrize("name", FORMS)
def test_every_form_is_read(tree: Tree, name: str) -> None:
    here = tree([], HEAD + config(file=f"Lists/{name}", folder="Games/Pocket"))
    put_bytes(here.root / f"Lists/{name}", FORMS[name].encode())
    put_bytes(here.root / "Games/gb/odd.gb", GULL.files["Gull Run (World).gb"])
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert set(game_states(here).values()) == {"there"}
    assert any(path.startswith("Games/Pocket/") for path in here.files())


@pytest.mark.parametrize("name", ["new.xml", "new.csv", "SHA256SUMS", "SHA1SUMS", "MD5SUMS", "new.sfv", "new.sha256"])
def test_what_is_written_is_read_again(tree: Tree, name: str) -> None:
    here = games(tree)
    put_bytes(here.root / "Games/Pocket/Gull Run (World).gb", GULL.files["Gull Run (World).gb"])
    put_bytes(here.root / "Games/Pocket/Tern Tide (Europe).zip", zip_bytes(TERN.files))
    here.ok("scan")
    here.ok("match", "pocket", "--export", str(here.root / "Lists" / name))
    text = (here.root / "Lists" / name).read_text()
    assert "Gull" in text
    assert "Kelp" not in text
    (here.root / "magpie.toml").write_text(HEAD + config(file=f"Lists/{name}", folder="Games/Pocket"))
    assert set(game_states(here).values()) <= {"there", "misnamed"}
    again = here.run("match", "--export", str(here.root / "Lists" / name))
    assert again.code == 2
    assert "--force" in again.err


@pytest.mark.parametrize(
    ("folder", "want"),
    [
        ("Games/{list}", "Games/Pocket"),
        ("Games/{about}", "Games/All of it"),
        ("Games/{list_file}", "Games/mine"),
        ("Games/{list_folder}", "Games/Lists"),
        ("Games/All/{list_folder} {list_file}", "Games/All/Lists mine"),
    ],
)
def test_a_rule_says_where_a_list_lies(tree: Tree, folder: str, want: str) -> None:
    """Where the rule changes, one plan moves all that is there; the old folder goes."""
    here = tree([], HEAD + config('pack = "zip"', file="Lists/mine.xml", folder="Games/Before"))
    text = xml_list("Pocket", [GULL]).replace("<version>", "<description>All of it</description><version>")
    put_bytes(here.root / "Lists/mine.xml", text.encode())
    put_bytes(here.root / "Inbox/x.gb", GULL.files["Gull Run (World).gb"])
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert "Games/Before/Gull Run (World).zip" in here.files()
    (here.root / "magpie.toml").write_text(HEAD + config('pack = "zip"', file="Lists/mine.xml", folder=folder))
    here.ok("match", "--fix", "--now")
    assert here.files() == {f"{want}/Gull Run (World).zip", "Lists/mine.xml"}
    assert not (here.root / "Games/Before").exists() or want.startswith("Games/Before")
    assert not here.ok("match", "--fix", "--json").json["steps"]
    assert not here.ok("tidy", "--json").json["steps"]


def test_a_newer_list_renames_in_one_plan(tree: Tree) -> None:
    here = games(tree, [GULL, KELP], "", 'pack = "zip"')
    for one in (GULL, KELP):
        put_bytes(here.root / f"Games/Pocket/{one.name}.zip", zip_bytes(one.files))
    here.ok("scan")
    here.ok("match")
    before = picture(here.root)
    newer = [Set("Gull Run (Europe)", {"Gull Run (Europe).gb": GULL.files["Gull Run (World).gb"]}), KELP]
    (here.root / "Lists/pocket.xml").write_text(xml_list("Pocket", newer, "2"))
    assert "version 2" in here.run("match", "pocket").out
    here.ok("match", "--fix", "--now")
    assert contents_below(here.root / "Games").keys() == {
        "Pocket/Gull Run (Europe).zip!Gull Run (Europe).gb",
        "Pocket/Kelp Race (USA).zip!Kelp Race (USA).gb",
    }
    here.ok("undo")
    (here.root / "Lists/pocket.xml").write_text(xml_list("Pocket", [GULL, KELP]))
    now = picture(here.root)
    assert {k: v for k, v in now.items() if k != "Lists/pocket.xml"} == {
        k: v for k, v in before.items() if k != "Lists/pocket.xml"
    }


def test_two_lists_that_want_one_name_are_both_shown(tree: Tree) -> None:
    """Nothing is done for the game that both have with other contents; the rest of both lists is put right."""
    here = tree([], HEAD + config('pack = "zip"', file="Lists", folder="Games/All"))
    other = Set(GULL.name, {"Gull Run (World).gb": b"another" * 60})
    put_bytes(here.root / "Lists/a.xml", xml_list("A", [GULL, KELP]).encode())
    put_bytes(here.root / "Lists/b.xml", xml_list("B", [other, TERN]).encode())
    for number, one in enumerate((GULL, KELP, other, TERN)):
        put_bytes(here.root / f"Inbox/{number}.zip", zip_bytes(one.files))
    here.ok("scan")
    lines = [line for line in here.run("match", "--json").lines if line["set"] == GULL.name]
    assert [line["list"] for line in lines] == ["A", "B"]
    assert all("another game of this name" in line["text"] for line in lines)
    plan = here.run("match", "--fix", "--json").json
    assert len(plan["conflicts"]) == 2
    here.ok("apply")
    found = contents_below(here.root / "Games").keys()
    assert {path.split("!")[0] for path in found} == {"All/Kelp Race (USA).zip", "All/Tern Tide (Europe).zip"}
    assert {"Inbox/0.zip", "Inbox/2.zip"} <= here.files()


def test_what_is_not_ours_is_copied(tree: Tree) -> None:
    """From a folder left alone, and from another root, also out of archives there."""
    here = games(tree, [GULL, KELP, TERN], config('pack = "zip"') + '[root.other]\nfolder = "ROOT"\n')
    outside = here.root.parent / "other"
    text = (here.root / "magpie.toml").read_text().replace("ROOT", str(outside))
    (here.root / "magpie.toml").write_text(text)
    put_bytes(here.root / "Old disk/gull.gb", GULL.files["Gull Run (World).gb"])
    put_bytes(outside / "all.zip", zip_bytes({"k.gb": KELP.files["Kelp Race (USA).gb"], "1": TERN.files["one.bin"]}))
    put_bytes(outside / "two.bin", TERN.files["sub/two.bin"])
    here.ok("scan")
    before, there = picture(here.root), picture(outside)
    assert set(game_states(here).values()) == {"elsewhere"}
    here.ok("match", "--fix", "--now")
    assert game_states(here) == dict.fromkeys((GULL.name, KELP.name, TERN.name), "there")
    assert picture(outside) == there
    assert (here.root / "Old disk/gull.gb").exists()
    here.ok("undo")
    assert picture(here.root) == before


def test_states_and_what_to_do(tree: Tree) -> None:
    here = games(tree, [GULL, KELP, TERN], "", 'pack = "loose"')
    put_bytes(here.root / "Games/Pocket/Gull Run (World).gb", b"damaged" * 60)
    put_bytes(here.root / "Games/Pocket/wrong.gb", KELP.files["Kelp Race (USA).gb"])
    put_bytes(here.root / "Games/Pocket/Tern Tide (Europe)/one.bin", TERN.files["one.bin"])
    put_bytes(here.root / "Games/Pocket/stray.gb", b"stray" * 60)
    here.ok("scan")
    assert game_states(here) == {
        GULL.name: "damaged",
        KELP.name: "misnamed",
        TERN.name: "incomplete",
        "Games/Pocket/stray.gb": "unknown",
    }
    shown = here.run("match", "pocket").out
    assert "absent: sub/two.bin" in shown
    assert "is called wrong.gb" in shown
    assert any("--fix puts it right" in line["text"] for line in here.run("match", "--json").lines)
    assert here.run("match", "pocket", "--state", "absent").out.count("\n") < shown.count("\n")
    rows = here.run("match", "--csv").out.splitlines()
    assert rows[0] == "list,set,file,state,path,want,text"
    total = here.run("match", "--total", "--json").lines[0]
    assert (total["games"], total["misnamed"], total["unknown"], total["files"]) == (3, 1, 1, 4)
    assert here.run("match", "nothing").code == 2
    here.ok("match", "--fix", "--now", code=0)
    assert "Inbox/Games/Pocket/stray.gb" in here.files()
    assert (here.root / "Games/Pocket/Gull Run (World).gb").read_bytes() == b"damaged" * 60
    found = here.ok("find", "listed", "is", "there", "--json").lines
    assert [item["path"] for item in found] == ["Games/Pocket/Kelp Race (USA).gb"]
    assert here.ok("find", "complete", "is", "no", "--json").lines


def test_rot_is_found_where_it_is_asked_for(tree: Tree) -> None:
    """A file that changed without its size and time, and a member whose archive says otherwise."""
    here = games(tree, [GULL, KELP])
    put_bytes(here.root / "Games/Pocket/Gull Run (World).gb", GULL.files["Gull Run (World).gb"])
    put_bytes(here.root / "Games/Pocket/Kelp Race (USA).zip", zip_bytes(KELP.files))
    here.ok("scan")
    assert set(game_states(here).values()) == {"there"}
    for path in (here.root / "Games/Pocket").iterdir():
        status, data = path.stat(), bytearray(path.read_bytes())
        data[len(data) // 3] ^= 1
        path.write_bytes(data)
        os.utime(path, ns=(status.st_atime_ns, status.st_mtime_ns))
    assert set(game_states(here).values()) == {"there"}
    here.ok("match", "--contents", code=1)
    assert set(game_states(here).values()) == {"damaged"}


def test_the_overview_is_kept_while_nothing_changes(tree: Tree) -> None:
    """It is found anew after a scan that found something, a change, another list, another configuration."""
    here = games(tree, [GULL, KELP], "", 'pack = "loose"')
    put_bytes(here.root / "Inbox/x.gb", GULL.files["Gull Run (World).gb"])
    here.ok("scan")

    def total() -> tuple[int, int, int]:
        one = here.run("match", "--total", "--json").lines[0]
        return one["there"], one["elsewhere"], one["absent"]

    assert total() == total() == (0, 1, 1)
    here.ok("match", "--fix", "--now")
    assert total() == (1, 0, 1)
    here.ok("undo")
    assert total() == (0, 1, 1)
    put_bytes(here.root / "Inbox/y.gb", KELP.files["Kelp Race (USA).gb"])
    here.ok("scan")
    assert total() == (0, 2, 0)
    put_bytes(here.root / "Lists/pocket.xml", xml_list("Pocket", [GULL]).encode())
    assert total() == (0, 1, 0)


ENTITY = '<!DOCTYPE datafile [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><datafile><game name="&b;"/></datafile>'
OUTSIDE = '<!DOCTYPE datafile [<!ENTITY a SYSTEM "file:///etc/hostname">]><datafile><game name="&a;"/></datafile>'


def _game(game: str, file: str, size: str = "5", crc: str = "00000001") -> str:
    return f'<datafile>\n<game name="{game}"><rom name="{file}" size="{size}" crc="{crc}"/></game></datafile>'


HOSTILE = {
    "entities.xml": ENTITY,
    "external.xml": OUTSIDE,
    "parent.xml": _game("a", "../../x.bin"),
    "backslash.xml": _game("a", "..\\\\x.bin"),
    "absolute.xml": _game("a", "/etc/x.bin"),
    "set.xml": _game("../../a", "x.bin"),
    "size.xml": _game("a", "x.bin", "-5"),
    "huge.xml": _game("a", "x.bin", "9" * 40),
    "crc.xml": _game("a", "x.bin", crc="xyz"),
    "long.xml": _game("a", "x" * 10_000_000),
    "empty.xml": _game("a", ""),
    "torn.xml": _game("a", "x.bin")[:-20],
    "other.xml": "<html><body/></html>",
    "none.xml": "",
    "twice.xml": _game("a", 'x" size="1" crc="1"/><rom name="X'),
    "columns.csv": "title,year\nKelp,1950\n",
    "size.csv": "set,game,file,size,crc32\nP,a,x.bin,many,00000001\n",
    "parent.csv": "set,game,file,size,crc32\nP,a,../x.bin,5,00000001\n",
    "SHA256SUMS": "no checksum at all\n",
    "list.sfv": "gull.gb\n",
    "own.md5": "0" * 32 + "  ../x\n",
    "line.md5": "0" * 32 + "  " + "x" * 100_000 + "\n",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_list_is_one_sentence(tree: Tree, name: str) -> None:
    """The line is named, nothing is planned by it, nothing lies outside; the other lists go on."""
    both = config(file=f"Lists/{name}", folder="Games/Bad", name="bad") + config('pack = "loose"')
    here = games(tree, [GULL], both)
    put_bytes(here.root / f"Lists/{name}", HOSTILE[name].encode())
    put_bytes(here.root / "Inbox/x.gb", GULL.files["Gull Run (World).gb"])
    here.ok("scan")
    before = set(here.root.parent.iterdir())
    answer = here.ok("match", "--fix", "--now", code=3)
    said = [line for line in answer.err.splitlines() if name in line]
    assert len(said) == 1, answer.err
    assert ", line " in said[0]
    assert len(said[0]) < 400
    assert "Traceback" not in answer.err
    assert "Games/Pocket/Gull Run (World).gb" in here.files()
    assert set(here.root.parent.iterdir()) == before


def test_names_that_differ_in_case_are_shown_and_left(tree: Tree) -> None:
    other = Set(GULL.name.upper(), {"x.gb": b"other" * 60})
    here = games(tree, [GULL, other, KELP], "", 'pack = "zip"')
    put_bytes(here.root / "Inbox/a.gb", GULL.files["Gull Run (World).gb"])
    put_bytes(here.root / "Inbox/b.gb", other.files["x.gb"])
    here.ok("scan")
    plan = here.run("match", "--fix", "--json").json
    assert not plan["steps"]
    assert len(plan["conflicts"]) == 2


STRANGE = [
    Set("Emoji 🪁 Gull", {"🪁 gull.bin": b"a" * 99}),
    Set("Line", {"new\nline.bin": b"b" * 99, "x.bin": b"y" * 99}),
    Set("Back", {"back\\slash.bin": b"c" * 99}),
    Set("L" * 255, {"l" * 251 + ".bin": b"d" * 99}),
    Set("Dots..", {"trail. .bin": b"e" * 99}),
    Set("con", {"con.bin": b"f" * 99}),
    Set("Marks <>|?*", {"q?*.bin": b"g" * 99}),
]


@pytest.mark.parametrize("pack", ["zip", "loose", "as is"])
def test_strange_names_are_put_right_and_brought_back(tree: Tree, pack: str) -> None:
    """Names in lists that not every disk takes, and files whose names are no UTF-8."""
    here = tree([], HEAD + config(f'pack = "{pack}"', file="Lists/pocket.csv"))
    put_bytes(here.root / "Lists/pocket.csv", csv_list("Pocket", STRANGE).encode())
    (here.root / "Inbox").mkdir()
    for number, data in enumerate(data for one in STRANGE for data in one.files.values()):
        with open(os.fsencode(here.root / "Inbox") + b"/\xff" + bytes([97 + number]) + b".bin", "wb") as file:
            file.write(data)
    before = picture(here.root)
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert set(game_states(here).values()) == {"there"}
    assert {path.split("/")[0] for path in here.files()} == {"Games", "Lists"}
    assert here.ok("match", "--fix", "--json").json["steps"] == []
    here.ok("undo")
    assert picture(here.root) == before


def test_a_list_that_is_not_there_is_said(tree: Tree) -> None:
    here = games(tree, [GULL], config(file="Lists/none.xml"))
    here.ok("scan")
    answer = here.ok("match", code=3)
    assert "Lists/none.xml can't be read" in answer.err
    assert program("-C", str(here.root), "match", "--fix").code == 3
    bare = tree([], HEAD)
    assert "no reference list" in bare.run("match").err


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('pack = "rar"', "“pack” is zip, loose or as is"),
        ('clones = "some"', "“clones” is whole, split or merged"),
        ('kind = "film"', "“kind” is game or firmware"),
    ],
)
def test_a_wrong_key_is_named_with_its_line(tree: Tree, line: str, said: str) -> None:
    here = games(tree, [GULL], "", line)
    answer = here.ok("match", code=2)
    assert said in answer.err
    assert ", line " in answer.err


def test_a_wrong_folder_is_named(tree: Tree) -> None:
    here = games(tree, [GULL], config(folder="Games/{title}"))
    assert "a list has no {title}" in here.ok("match", code=2).err
    here = games(tree, [GULL], config(folder="../out"))
    assert "not inside the collection" in here.ok("match", code=2).err


def test_clones_are_packed_as_one_wants(tree: Tree) -> None:
    shared = {"shared.bin": b"shared" * 60}
    top = Set("Gull", {**shared, "own.bin": b"top" * 60})
    clone = Set("Gull (Rev 1)", {**shared, "own.bin": b"clone" * 60}, "Gull")
    want = {
        "whole": {"Gull.zip!own.bin", "Gull.zip!shared.bin", "Gull (Rev 1).zip!own.bin", "Gull (Rev 1).zip!shared.bin"},
        "split": {"Gull.zip!own.bin", "Gull.zip!shared.bin", "Gull (Rev 1).zip!own.bin"},
        "merged": {"Gull.zip!own.bin", "Gull.zip!shared.bin", "Gull.zip!Gull (Rev 1)/own.bin"},
    }
    here = games(tree, [top, clone], config('pack = "zip"'))
    for name, data in {"1": top.files["own.bin"], "2": clone.files["own.bin"], "3": shared["shared.bin"]}.items():
        put_bytes(here.root / f"Inbox/{name}.bin", data)
    here.ok("scan")
    for clones, found in want.items():
        (here.root / "magpie.toml").write_text(HEAD + config('pack = "zip"', f'clones = "{clones}"'))
        here.ok("match", "--fix", "--now")
        assert contents_below(here.root / "Games/Pocket").keys() == found
        assert set(game_states(here).values()) == {"there"}
