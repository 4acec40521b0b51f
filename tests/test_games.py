"""Games: play lists of several discs, one preferred of each, firmware, headers, names of systems."""

from __future__ import annotations

import os
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest

from lazy_magpie.config.sections.prefer import Prefer
from lazy_magpie.lists.preferred import Version, choose
from tests.conftest import Collection, picture
from tests.lists import Set, csv_list, put_bytes, xml_list, zip_bytes

Tree = Callable[..., Collection]
HEAD = """[collection]
name = "Test"
[shelf.games]
kind = "game"
folder = "Games"
"""
PLAYER = '[player.lounge]\nplay_lists = ["lantern"]\ndiscs = ".discs"\n'
POCKET = '[list.pocket]\nfile = "Lists/pocket.xml"\nfolder = "Games/Pocket"\n'


def _discs(root: Path, numbers: tuple[int, ...], home: str = "Games/lantern", name: str = "Tide (Europe)") -> None:
    for number in numbers:
        stem = root / home / f"{name} (Disc {number})"
        put_bytes(stem.with_name(f"{stem.name}.bin"), f"{name}{number}".encode() * 500)
        sheet = f'FILE "{stem.name}.bin" BINARY\n  TRACK 01 MODE1/2352\n    INDEX 01 00:00:00\n'
        put_bytes(stem.with_name(f"{stem.name}.cue"), sheet.encode())


def test_a_game_of_several_discs_gets_one_entry(tree: Tree) -> None:
    here = tree([], HEAD + PLAYER)
    _discs(here.root, (1, 2, 3))
    _discs(here.root, (1,), name="Lone (Europe)")
    _discs(here.root, (1, 2), home="Games/barge")
    here.ok("scan")
    before = picture(here.root)
    here.ok("tidy", "--now")
    entry = here.root / "Games/lantern/Tide (Europe).m3u"
    assert entry.read_text() == "".join(f".discs/Tide (Europe) (Disc {number}).cue\n" for number in (1, 2, 3))
    assert {path for path in here.files() if path.endswith(".m3u")} == {"Games/lantern/Tide (Europe).m3u"}
    assert all((entry.parent / line).exists() for line in entry.read_text().splitlines())
    here.ok("scan")
    assert here.ok("tidy", "--json").json["steps"] == []
    assert len(here.ok("find", "kind", "is", "game", "tide", "--json").lines) == 2
    here.ok("undo")
    assert picture(here.root) == before


def test_a_play_list_is_adopted_and_repaired_and_a_missing_disc_named(tree: Tree) -> None:
    here = tree([], HEAD + PLAYER.replace('discs = ".discs"\n', ""))
    _discs(here.root, (1, 3))
    put_bytes(here.root / "Games/lantern/tide.m3u", b"# mine\r\nTide (Europe) (Disc 1).cue\r\n")
    here.ok("scan")
    plan = here.ok("tidy", "--json", code=1).json
    assert [left["why"] for left in plan["left"]] == ["disc 2 is missing"]
    here.ok("apply")
    found = {path for path in here.files() if path.endswith(".m3u")}
    assert found == {"Games/lantern/Tide (Europe).m3u"}
    lines = (here.root / found.pop()).read_text().splitlines()
    assert lines == ["Tide (Europe) (Disc 1).cue", "Tide (Europe) (Disc 3).cue"]
    assert here.ok("find", "complete", "is", "no", "--json").lines[0]["fields"]["title"] == "Tide"
    assert here.ok("tidy", "--json", code=1).json["steps"] == []


def test_systems_have_the_names_that_a_shelf_gives_them(tree: Tree) -> None:
    here = tree(["Inbox/gb/Gull (Europe).gb"], HEAD + 'folders = { gb = "Handheld" }\n')
    here.ok("scan")
    here.ok("tidy", "--now")
    assert here.files() == {"Games/Handheld/Gull (Europe).gb"}
    assert here.ok("find", "system", "is", "gb", "--json").lines
    assert here.ok("tidy", "--json").json["steps"] == []
    wrong = tree([], HEAD + 'folders = { gb = "a/b" }\n')
    assert "is no name of a folder" in wrong.ok("scan", code=2).err


def test_a_systems_folder_stays_what_a_person_calls_it(tree: Tree) -> None:
    here = tree(["Games/SNES/Tern (Europe).sfc", "Heap/Kite (USA).sfc", "Heap/Gull (Europe).gb"], HEAD)
    here.ok("scan")
    here.ok("tidy", "--now")
    assert here.files() == {
        "Games/SNES/Tern (Europe).sfc", "Games/SNES/Kite (USA).sfc", "Games/gb/Gull (Europe).gb",
    }  # fmt: skip
    here.put("Games/sfc/Fog (USA).sfc")  # two folders for one system: each game stays in its own
    here.ok("scan")
    assert here.ok("tidy", "--json").json["steps"] == []


def test_a_system_is_told_by_header_and_by_what_an_archive_holds(tree: Tree) -> None:
    here = tree([], HEAD)
    put_bytes(here.root / "Inbox/Gull Run (World).zip", zip_bytes({"a.gb": b"x" * 99, "read me.txt": b"x"}))
    put_bytes(here.root / "Inbox/Kelp Run (World).zip", zip_bytes({"a.gb": b"x" * 99, "b.nes": b"x" * 99}))
    put_bytes(here.root / "Inbox/Tern Run (World).rom", b"NES\x1a" + b"x" * 999)
    here.ok("scan")
    found = {item["fields"]["title"]: item for item in here.ok("find", "kind", "is", "game", "--json").lines}
    systems = {title: item["fields"].get("system") for title, item in found.items()}
    assert systems == {"Gull Run": "gb", "Kelp Run": None, "Tern Run": "nes"}
    assert [found[title]["state"] for title in sorted(found)] == ["clear", "doubtful", "clear"]


def test_what_lists_file_is_left_by_tidy(tree: Tree) -> None:
    """Whatever the shelf's naming would say: also where the list was never matched, and after a change by hand."""
    naming = '[naming.own]\ngame = "{title}/{name}"\n'
    here = tree([], HEAD + 'naming = "own"\n' + naming + POCKET)
    gull = Set("Gull Run (World)", {"Gull Run (World).gb": b"gull" * 60})
    put_bytes(here.root / "Lists/pocket.xml", xml_list("Pocket", [gull]).encode())
    put_bytes(here.root / "Games/Pocket/Gull Run (World).gb", b"gull" * 60)
    put_bytes(here.root / "Games/gb/Kelp (USA).gb", b"kelp" * 60)
    here.ok("scan")
    plan = here.ok("tidy", "--json").json
    assert [step["to"] for step in plan["steps"] if step["do"] == "move"] == ["Games/Kelp/Kelp (USA).gb"]
    assert plan["passed"]["filed by reference lists"] == 1
    assert "where a reference list says" in here.ok("show", "gull").out


def test_images_are_matched_without_their_headers(tree: Tree) -> None:
    """Loose and inside archives; the image keeps its header, whatever it is called then."""
    data = {name: name.encode() * 64 for name in ("gull", "kelp")}
    listed = [Set(name, {f"{name}.bin": content}) for name, content in data.items()]
    here = tree([], HEAD + POCKET)
    put_bytes(here.root / "Lists/pocket.xml", xml_list("Pocket", listed).encode())
    header = b"NES\x1a" + bytes(12)
    put_bytes(here.root / "Inbox/one.nes", header + data["gull"])
    put_bytes(here.root / "Inbox/two.zip", zip_bytes({"two.nes": header + data["kelp"]}))
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert {line["state"] for line in here.run("match", "--json").lines} == {"there"}
    whole = (here.root / "Games/Pocket/gull.bin").read_bytes()
    assert whole == header + data["gull"]


def test_firmware_is_right_wrong_or_missing(tree: Tree) -> None:
    listed = [Set(name, {f"{name}.rom": name.encode() * 64}) for name in ("one", "two", "three", "four")]
    shelf = '[shelf.firmware]\nkind = "firmware"\nfolder = "Firmware"\n'
    section = '[list.boot]\nfile = "Lists/boot.csv"\nfolder = "Firmware"\nkind = "firmware"\npack = "loose"\n'
    here = tree([], HEAD + shelf + section)
    put_bytes(here.root / "Lists/boot.csv", csv_list("Boot", listed).encode())
    put_bytes(here.root / "Firmware/one.rom", b"one" * 64)
    put_bytes(here.root / "Firmware/two.rom", b"three" * 64)
    put_bytes(here.root / "Firmware/four.rom", b"nobody" * 64)
    here.ok("scan")
    found = {line["set"]: (line["state"], line["text"]) for line in here.run("match", "--json").lines}
    assert found["one"] == ("there", "")
    assert found["two"] == ("damaged", "really three; look for a good copy")
    assert found["three"][0] == "misnamed"
    assert found["four"] == ("damaged", "not what the list has; look for a good copy")


def test_what_a_list_knows_no_copy_of_is_not_missed(tree: Tree) -> None:
    text = (
        "<datafile><header><name>Pocket</name></header>"
        '<game name="Gull"><rom name="a.bin" size="240" crc="{crc}"/>'
        '<rom name="b.bin" size="9" status="nodump"/></game>'
        '<game name="Lost"><rom name="l.bin" size="9" status="nodump"/></game>'
        '<game name="Poor"><rom name="p.bin" size="9" crc="00000001" status="baddump"/></game></datafile>'
    )
    here = tree([], HEAD + POCKET)
    put_bytes(here.root / "Lists/pocket.xml", text.format(crc=f"{zlib.crc32(b'gull' * 60):08x}").encode())
    put_bytes(here.root / "Games/Pocket/Gull/a.bin", b"gull" * 60)
    here.ok("scan")
    lines = here.run("match", "--json").lines
    found = {line["set"]: (line["state"], line["text"]) for line in reversed(lines)}
    assert found["Gull"][0] == "there"
    assert [line["text"] for line in lines if line["file"] == "b.bin"] == ["no copy of it is known"]
    assert here.run("match", "--total", "--json").lines[0]["files"] == 2
    assert found["Lost"] == ("absent", "no copy of it is known")
    assert found["Poor"] == ("absent", "only a bad copy of it is known")


def test_discs_are_matched_by_what_they_say_of_what_is_packed_in_them(tree: Tree) -> None:
    here = tree([], HEAD + POCKET + 'pack = "zip"\n')
    sha1 = bytes(range(20))
    text = f'<datafile><header><name>Pocket</name></header><game name="Tide"><disk name="tide" sha1="{sha1.hex()}"/>'
    put_bytes(here.root / "Lists/pocket.xml", f"{text}</game></datafile>".encode())
    head = b"MComprHD" + (124).to_bytes(4, "big") + (5).to_bytes(4, "big")
    put_bytes(here.root / "Inbox/odd.chd", head.ljust(84, b"\0") + sha1 + b"\0" * 500)
    put_bytes(here.root / "Inbox/other.chd", head.ljust(84, b"\0") + sha1[::-1] + b"\0" * 500)
    put_bytes(here.root / "Inbox/short.chd", head)
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert here.files() >= {"Games/Pocket/Tide/tide.chd", "Inbox/other.chd", "Inbox/short.chd"}
    assert {line["state"] for line in here.run("match", "--json").lines} == {"there"}


def test_discs_lie_beside_the_archive_of_their_game(tree: Tree) -> None:
    here = tree([], HEAD + POCKET + 'pack = "zip"\n')
    sha1 = bytes(range(20, 40))
    roms = {f"tide{number}.bin": bytes([number]) * 90 for number in (1, 2)}
    listed = "".join(
        f'<rom name="{name}" size="90" crc="{zlib.crc32(data):08x}"/>' for name, data in sorted(roms.items())
    )
    game = f'<game name="Tide">{listed}<disk name="tide" sha1="{sha1.hex()}"/></game>'
    text = f"<datafile><header><name>Pocket</name></header>{game}</datafile>"
    put_bytes(here.root / "Lists/pocket.xml", text.encode())
    head = b"MComprHD" + (124).to_bytes(4, "big") + (5).to_bytes(4, "big")
    put_bytes(here.root / "Inbox/odd.chd", head.ljust(84, b"\0") + sha1 + b"\0" * 500)
    for name, data in roms.items():
        put_bytes(here.root / "Games/Pocket/Tide" / name, data)
    here.ok("scan")
    before = picture(here.root)
    assert here.run("match", "--json").lines[0]["state"] == "elsewhere"
    here.ok("match", "--fix", "--now")
    assert here.files() == {"Lists/pocket.xml", "Games/Pocket/Tide.zip", "Games/Pocket/Tide/tide.chd"}
    assert zipfile.ZipFile(here.root / "Games/Pocket/Tide.zip").namelist() == sorted(roms)
    assert {line["state"] for line in here.run("match", "--json").lines} == {"there"}
    assert here.run("match", "--total", "--json").lines[0]["files"] == 3
    assert "Nothing to put right" in here.run("match", "--fix").err
    here.ok("undo")
    assert picture(here.root) == before


EUROPE, USA = ("Europe",), ("USA",)


@pytest.mark.parametrize(
    ("versions", "best"),
    [
        ([Version(1, "g", "a", USA), Version(2, "g", "b", EUROPE)], 2),
        ([Version(1, "g", "a", EUROPE), Version(2, "g", "b", EUROPE, revision="1")], 2),
        ([Version(1, "g", "a", EUROPE, revision="9"), Version(2, "g", "b", EUROPE, revision="10")], 2),
        ([Version(1, "g", "a", EUROPE, revision="1.2"), Version(2, "g", "b", EUROPE, revision="1.10")], 2),
        ([Version(1, "g", "a", EUROPE, revision="A"), Version(2, "g", "b", EUROPE, revision="B")], 2),
        ([Version(1, "g", "a", EUROPE, status=("beta",)), Version(2, "g", "b", USA)], 2),
        ([Version(1, "g", "a", EUROPE, is_complete=False), Version(2, "g", "b", USA)], 2),
        ([Version(1, "g", "a", EUROPE, dump="bad"), Version(2, "g", "b", USA, dump="verified")], 2),
        ([Version(1, "g", "a", EUROPE, ("fr",)), Version(2, "g", "b", EUROPE, ("de", "fr"))], 2),
        ([Version(1, "g", "a", EUROPE, is_parent=False), Version(2, "g", "bb", EUROPE)], 2),
        ([Version(1, "g", "a"), Version(2, "g", "b", USA)], 2),
        ([Version(1, "g", "a", ("Brazil",)), Version(2, "g", "b", ("Korea",))], 1),
        ([Version(1, "g", "a", EUROPE, status=("demo",))], 0),
    ],
)
def test_one_of_each_game_is_preferred(versions: list[Version], best: int) -> None:
    prefer = Prefer(("Europe", "World", "USA"), ("en", "de"))
    found = dict(choose(versions, prefer))
    assert [id for id, verdict in found.items() if verdict.is_preferred] == ([best] if best else [])
    assert all(verdict.why for verdict in found.values())


def test_versions_are_told_by_the_list_else_by_title_and_system(tree: Tree) -> None:
    here = tree([], HEAD + POCKET + '[prefer.game]\nregions = ["Europe", "USA"]\n')
    listed = [
        Set("Gull Run (USA)", {"Gull Run (USA).gb": b"usa" * 60}),
        Set("Möwenlauf (Europe)", {"Möwenlauf (Europe).gb": b"eur" * 60}, "Gull Run (USA)"),
    ]
    put_bytes(here.root / "Lists/pocket.xml", xml_list("Pocket", listed).encode())
    for one in listed:
        for name, data in one.files.items():
            put_bytes(here.root / "Games/Pocket" / name, data)
    here.put("Games/gb/Tern (USA).gb", "Games/gb/Tern (Europe) (Beta).gb", "Games/nes/Tern (Europe).nes")
    here.ok("scan")
    found = {os.path.basename(item["path"]) for item in here.ok("find", "preferred", "is", "yes", "--json").lines}
    assert found == {"Möwenlauf (Europe).gb", "Tern (USA).gb", "Tern (Europe).nes"}
    shown = here.ok("show", "gull", "--json").lines[0]["lists"]
    assert (shown["preferred"], shown["listed"]) == (False, "there")
    assert "another region" in shown["why"]
    here.ok("rename", "Games/nes", "preferred", "is", "yes", "--append", "x", code=0)
