"""Checks: every fault is found once, with what mends it; nothing is found where nothing is wrong; mending is undone."""

from __future__ import annotations

import csv
import html
from collections.abc import Callable
from pathlib import Path
from typing import Any

import mutagen
import pytest

from lazy_magpie.checks import RULES
from lazy_magpie.demo import declare, faults
from tests.conftest import CONFIG, Collection, picture
from tests.lists import put_bytes, zip_bytes

Tree = Callable[..., Collection]
PNG = b"\x89PNG\r\n\x1a\n" + b"\0" * 40

LOOKED_AT = ",".join(rule.name for rule in RULES if rule.name != "unreadable")
"""Every rule but the one that the files of these tests, which are no real media, can't meet."""
PLANTED: dict[str, tuple[tuple[str, ...], str, str | None]] = {
    "wrong-shelf": (("Films/Dockside S01E04.mkv",), "Films/Dockside S01E04.mkv", "tidy files it"),
    "wrong-folder": (("Films/Kelp (2001).mkv",), "Films/Kelp (2001).mkv", "tidy files it"),
    "wrong-name": (("Films/Tern (1999)/tern.1999.720p.mkv",), "Films/Tern (1999)/tern.1999.720p.mkv", "tidy files it"),
    "not-filed": (("Heap/Fog (1950).mkv",), "Heap/Fog (1950).mkv", "tidy files it"),
    "in-doubt": (("Heap/no year.mkv",), "Heap/no year.mkv", None),
    "missing-part": (
        ("Films/Sound (1970)/Sound (1970) - part 1.avi", "Films/Sound (1970)/Sound (1970) - part 3.avi"),
        "Films/Sound (1970)/Sound (1970) - part 1.avi",
        None,
    ),
    "missing-episode": (
        ("Series/Quay/Season 01/Quay S01E01.mkv", "Series/Quay/Season 01/Quay S01E03.mkv"),
        "Series/Quay/Season 01/Quay S01E01.mkv",
        None,
    ),
    "title-twice": (
        ("Films/Reef (1980)/Reef (1980).mkv", "Heap/Reef.1980.DVDRip.mkv"),
        "Heap/Reef.1980.DVDRip.mkv",
        None,
    ),
    "junk": (("Heap/Thumbs.db",), "Heap/Thumbs.db", "it is taken away, into the holding area"),
    "sample": (
        ("Heap/Gale.1990.720p/gale.mkv", "Heap/Gale.1990.720p/Sample/sample.mkv"),
        "Heap/Gale.1990.720p/Sample/sample.mkv",
        "it is taken away, into the holding area",
    ),
    "unfinished": (("Heap/half.mkv.part",), "Heap/half.mkv.part", None),
    "unsafe-name": (("Club/Gull: Run?.txt",), "Club/Gull: Run?.txt", "it becomes Club/Gull - Run.txt"),
    "lost-reference": (("Games/lantern/Tide (Europe).m3u",), "Games/lantern/Tide (Europe).m3u", None),
    "spelling": (
        (
            "Series/Marsh Road/Season 01/Marsh Road S01E01.mkv",
            "Series/Marsh Road/Season 01/Marsh Road S01E02.mkv",
            "Series/Marsh-Road/Season 01/Marsh-Road S01E03.mkv",
        ),
        "Series/Marsh-Road/Season 01/Marsh-Road S01E03.mkv",
        None,
    ),
    "number-style": (
        (
            "Series/Wrack/Season 01/Wrack S01E01.mkv",
            "Series/Wrack/Season 2/Wrack S02E01.mkv",
            "Series/Wrack/Season 03/Wrack S03E01.mkv",
        ),
        "Series/Wrack/Season 2",
        None,
    ),
    "shared-subtitle": (
        (
            "Films/Neap (1990)/Neap (1990) - 1080p.mkv",
            "Films/Neap (1990)/Neap (1990) - 720p.mkv",
            "Films/Neap (1990)/English.srt",
        ),
        "Films/Neap (1990)/English.srt",
        None,
    ),
    "no-licence": (("Fonts/Bunting/Bunting-Regular.ttf",), "Fonts/Bunting/Bunting-Regular.ttf", None),
}


@pytest.mark.parametrize("rule", PLANTED)
def test_a_planted_fault_is_found_with_what_mends_it(tree: Tree, rule: str) -> None:
    paths, where, fix = PLANTED[rule]
    here = tree(paths, CONFIG)
    here.ok("scan")
    found = [one for one in here.ok("check", "--json", code=1).lines if one["rule"] == rule]
    assert [one["path"] for one in found] == [where]
    assert found[0]["fix"] == fix if fix is None else found[0]["fix"].startswith(fix)
    assert found[0]["text"]
    alone = here.ok("check", "--rule", rule, "--json", code=1).lines
    assert {one["rule"] for one in alone} == {rule}


def test_nothing_is_found_where_nothing_is_wrong(tree: Tree) -> None:
    here = tree(
        [
            "Films/Kelp (2001)/Kelp (2001).mkv",
            "Films/Kelp (2001)/Kelp (2001).en.srt",
            "Series/Quay/Season 01/Quay S01E01.mkv",
            "Series/Quay/Season 01/Quay S01E02.mkv",
            "Games/gb/Gull Run (World).gb",
            "Backup old/tern.1999.mkv",
            "notes.txt",
        ],
        CONFIG,
    )
    here.ok("scan")
    assert here.ok("check", "--rule", LOOKED_AT).out == "Nothing is wrong.\n"
    assert "Nothing that can be mended" in here.ok("check", "--fix").err


def test_what_can_be_mended_is_mended_in_one_plan_and_undone(tree: Tree) -> None:
    here = tree([path for paths, _, _ in PLANTED.values() for path in paths], CONFIG)
    put_bytes(here.root / "Heap/picture.jpg", PNG)
    (here.root / "Heap/nothing/in here").mkdir(parents=True)
    here.ok("scan")
    before = picture(here.root)
    _mend(here)
    here.ok("undo")
    assert picture(here.root) == before


def _mend(here: Collection) -> list[Any]:
    """Mend all that can be mended; return what is still found, of which nothing has a fix."""
    here.run("check", "--fix")
    applied = here.run("apply", "--json").json
    assert not applied["failed"]
    assert not applied["skipped"]
    here.ok("scan")
    left = here.ok("check", "--json", code=1).lines
    assert [one for one in left if one["fix"] is not None] == []
    return left


def test_the_demo_is_mended_and_brought_back(demo: Collection) -> None:
    """What is left is for a person to decide; nothing is said that is not so."""
    demo.ok("start")
    demo.ok("scan")
    before = picture(demo.root)
    left = _mend(demo)
    assert {one["rule"] for one in left} == {"in-doubt", "missing-episode", "title-twice", "unfinished"}
    demo.ok("undo")
    assert picture(demo.root) == before


def test_each_planted_fault_of_the_demo_is_found_once_and_nothing_else(demo: Collection) -> None:
    """The list beside the faults is the truth; what a tidy demo leaves to a person is known before they are planted."""
    demo.ok("start")
    declare(demo.root / "magpie.toml")
    demo.ok("scan")
    _mend(demo)
    own = {(one["rule"], one["path"]) for one in demo.ok("check", "--json", code=1).lines}
    assert {rule for rule, _ in own} == {
        "missing-firmware", "in-doubt", "missing-episode", "title-twice", "unfinished",
    }  # fmt: skip
    faults.plant(demo.root)
    demo.ok("scan")
    with (demo.root / faults.LIST).open() as file:
        truth = {(row["rule"], row["path"]): row["fix"] for row in csv.DictReader(file)}
    lines = demo.ok("check", "--json", code=1).lines
    found = [one for one in lines if (one["rule"], one["path"]) not in own]
    assert sorted((one["rule"], one["path"]) for one in found) == sorted(truth)
    for one in found:
        fix = truth[one["rule"], one["path"]]
        assert (one["fix"] or "").startswith(fix) and bool(fix) == bool(one["fix"]), one
    without_rot = {rule.name for rule in RULES} - {"rotten"}  # which shows only against an earlier reading
    assert without_rot == {rule for rule, _ in own | truth.keys()}
    before = picture(demo.root)
    left = _mend(demo)
    assert {(one["rule"], one["path"]) for one in left} <= own | truth.keys()
    demo.ok("undo")
    assert picture(demo.root) == before


def test_a_player_is_asked_what_it_reads(tree: Tree) -> None:
    players = '[player.lounge]\nreads = ["mkv"]\nlongest_name = 30\n[player.stick]\nreads = ["avi", "mkv"]\n'
    here = tree(
        ["Films/Kelp (2001)/Kelp (2001).avi", f"Films/{'T' * 30} (1999)/{'T' * 30} (1999).mkv"], CONFIG + players
    )
    here.ok("scan")
    lines = here.ok("check", "--rule", "player", "--json", code=1).lines
    assert sorted(one["text"] for one in lines) == [
        "lounge does not read it: its ending is avi",
        "lounge does not read it: its name has 41 bytes, more than 30",
    ]
    assert here.ok("check", "--rule", "player", "--player", "stick").out == "Nothing is wrong.\n"
    assert "There is no player" in here.ok("check", "--player", "sofa", code=2).err


def test_standards_are_held_but_lossless_is_never_below(demo: Collection) -> None:
    demo.ok("start")
    with (demo.root / "magpie.toml").open("a") as file:
        file.write('\n[standard.track]\nbitrate = "256k"\n[standard.movie]\nlines = 80\n')
    demo.ok("scan")
    found = demo.ok("check", "--rule", "below-standard", "--json", code=1).lines
    items = {item["path"]: item for item in demo.ok("find", "--json").lines}
    assert found
    for one in found:
        facts = items[one["path"]]["facts"]
        assert not facts.get("lossless")
        assert facts.get("bitrate", 10**9) < 256_000 or facts.get("height", 10**9) < 80


def test_links_that_lead_nowhere_are_told_and_their_folder_is_not_empty(tree: Tree) -> None:
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv", "Backup old/notes.txt"], CONFIG)
    (here.root / "Club/Links").mkdir(parents=True)
    (here.root / "Club/Links/lost").symlink_to("/nowhere/Kelp")
    (here.root / "Club/Links/good").symlink_to("../../Films")
    (here.root / "Club/Links/round").symlink_to("round")
    (here.root / "Backup old/left alone").symlink_to("/nowhere/Tern")
    (here.root / "Club/Empty/Deep").mkdir(parents=True)
    here.ok("scan")
    found = here.ok("check", "--rule", "dead-link,empty-folder", "--json", code=1).lines
    assert [(one["rule"], one["path"]) for one in found] == [
        ("dead-link", "Club/Links/lost"),
        ("dead-link", "Club/Links/round"),
        ("empty-folder", "Club/Empty"),
        ("empty-folder", "Club/Empty/Deep"),
    ]
    assert found[0]["text"] == "leads to /nowhere/Kelp, which is not there"


def test_subtitles_are_in_a_language_that_is_wanted(tree: Tree) -> None:
    here = tree(
        [
            "Films/Kelp (2001)/Kelp (2001).mkv",
            "Films/Kelp (2001)/Kelp (2001).fr.srt",
            "Films/Kelp (2001)/Subs/German.srt",
            "Films/Tern (1999)/Tern (1999).mkv",
            "Films/Tern (1999)/Tern (1999).fr.srt",
            "Films/Tern (1999)/Tern (1999).nl.forced.srt",
            "Films/Gull (1980)/Gull (1980).mkv",
            "Films/Gull (1980)/Gull (1980).srt",  # nobody tells its language
            "Films/Reef (1970)/Reef (1970).mkv",  # has none
            "Series/Quay/Season 01/Quay S01E01.mkv",
            "Series/Quay/Season 01/Quay S01E01.fr.srt",  # no standard for episodes
        ],
        CONFIG + '[standard.movie]\nsubtitles = ["en", "nl"]\n',
    )
    here.ok("scan")
    found = here.ok("check", "--rule", "subtitle-language", "--json", code=1).lines
    assert [one["path"] for one in found] == ["Films/Kelp (2001)/Kelp (2001).mkv"]
    assert found[0]["text"] == "has subtitles in de, fr; the standard is en or nl"


@pytest.mark.parametrize(
    ("section", "said"),
    [
        ("[standard.film]\nlines = 720\n", "there is no standard for “film”"),
        ("[standard.track]\nlines = 720\n", "a track has no “lines”"),
        ('[standard.track]\nbitrate = "fast"\n', "is no bit rate"),
        ('[standard.movie]\nlines = "720"\n', "“lines” is a number"),
        ('[standard.movie]\nsubtitles = ["Dutch!"]\n', "is no code of a language"),
        ('[player.a]\nlines = "many"\n', "“lines” is like “up to 1080”"),
        ("[player.a]\nlongest_name = true\n", "“longest_name” is a number"),
    ],
)
def test_a_wrong_section_is_named_with_its_line(tree: Tree, section: str, said: str) -> None:
    answer = tree([], CONFIG + section).run("check")
    assert answer.code == 2
    assert said in answer.err
    assert ", line " in answer.err


def test_rules_are_named_once_and_a_wrong_one_is_told(tree: Tree) -> None:
    names = [rule.name for rule in RULES]
    assert len(names) == len(set(names)) >= 20
    here = tree(["Films/Kelp (2001).mkv"], CONFIG)
    here.ok("scan")
    assert "wrong-shelf" in here.ok("check", "--rule", "wrong-shel", code=2).err
    rows = here.ok("check", "--csv", "--rule", LOOKED_AT, code=1).out.splitlines()
    assert rows[0] == "rule,path,text,fix"
    assert rows[1].startswith("wrong-folder,Films/Kelp (2001).mkv,")
    assert here.ok("check", "Nowhere", code=2).err


def test_what_is_left_for_ever_is_told_no_more_follows_its_file_and_comes_back(tree: Tree) -> None:
    here = tree(["Heap/Thumbs.db", "Heap/Deep/desktop.ini", "Films/Kelp (2001).mkv", "Heap/no year.mkv"], CONFIG)
    rules = ("check", "--rule", "junk,wrong-folder,in-doubt", "--json")
    here.ok("scan")
    assert len(here.ok(*rules, code=1).lines) == 4
    here.ok("settle", "Heap/Deep", "--leave", "junk")
    here.ok("settle", "Films/Kelp (2001).mkv", "--leave", "wrong-folder, in-doubt")
    here.ok("settle", "state", "is", "doubtful", "--leave", "in-doubt")
    assert [one["path"] for one in here.ok(*rules, code=1).lines] == ["Heap/Thumbs.db"]
    assert len(here.ok(*rules, "--left", code=1).lines) == 4
    assert "3 findings left for ever" in here.ok("check", "--rule", "junk,wrong-folder,in-doubt", code=1).err
    assert here.ok("check", "--fix", "--rule", "wrong-folder", "--json").json["steps"] == []
    here.ok("rename", "Films/Kelp (2001).mkv", "--append", "x", "--now")
    here.ok("move", "Heap/Deep", "Club", "--now")
    (here.root / ".magpie/catalogue.db").unlink()
    here.ok("scan")
    assert [one["path"] for one in here.ok(*rules, code=1).lines] == ["Heap/Thumbs.db"]
    here.ok("settle", "Club/Deep", "--unset")
    assert len(here.ok(*rules, code=1).lines) == 2
    here.ok("undo")
    assert len(here.ok(*rules, code=1).lines) == 1
    assert "There is no rule" in here.ok("settle", "Heap", "--leave", "jnk", code=2).err
    assert "needs ITEMS" in here.ok("settle", "--leave", "junk", code=2).err


def test_song_tags_that_contradict_are_told_once(demo: Collection) -> None:
    demo.ok("start")
    songs = sorted(demo.root.rglob("Kite Day/0?*.mp3"))
    for number, song in enumerate(songs, start=1):
        tags = mutagen.File(song, easy=True)
        tags["date"] = "1999" if number == 1 else "2004"
        tags["tracknumber"] = str(min(number, 2))
        tags.save()
    demo.ok("scan")
    found = demo.ok("check", "--rule", "song-tags,in-doubt", "Music", "--json", code=1).lines
    told = sorted((one["path"].rpartition("/")[2][:2], one["text"]) for one in found)
    assert told == [
        ("01", "says year “1999”; its album is of “2004”"),
        ("03", "they say track “2”"),
    ]


def test_firmware_that_is_not_there_is_told(demo: Collection) -> None:
    demo.ok("start")
    declare(demo.root / "magpie.toml")
    demo.ok("scan")
    found = demo.ok("check", "--rule", "missing-firmware", "--json", code=1).lines
    assert [one["text"] for one in found] == [
        "Reef 4 needs reef4boot.rom: not what the list has; look for a good copy; card would get it",
        "Wharf needs wharfboot.rom: it is not there; card would get it",
    ]


def test_the_page_holds_every_finding_and_hostile_names_as_text(tree: Tree, tmp_path: Path) -> None:
    name = "Heap/<script>alert(1)</script>&amp; no year.mkv"
    here = tree(["Heap/Thumbs.db", "Films/Kelp (2001).mkv"], CONFIG)
    put_bytes(here.root / name, b"x")
    here.ok("scan")
    page = tmp_path / "wrong.html"
    here.ok("check", "--page", str(page), code=1)
    text = page.read_text()
    assert "<script>alert" not in text
    assert "&lt;script&gt;alert(1)" in text
    assert all(html.escape(one["path"]) in text for one in here.ok("check", "--json", code=1).lines)
    assert "is there already" in here.ok("check", "--page", str(page), code=2).err
    assert "A page is HTML" in here.ok("check", "--page", "wrong.txt", code=2).err


def test_what_lies_in_folders_left_alone_is_passed_by(tree: Tree) -> None:
    here = tree(["Backup 1/Thumbs.db", "Backup 1/kelp.2001.mkv"], CONFIG)
    put_bytes(here.root / "Backup 1/a.zip", zip_bytes({"x": b"y"}))
    here.ok("scan")
    assert here.ok("check").out == "Nothing is wrong.\n"


def test_songs_that_are_called_by_one_number_contradict_nothing(tree: Tree) -> None:
    album = "Music/Ida Marrow - Low Lights (1969)"
    sides = [f"{side}{number}" for side in ("A", "B", "Side A track ", "Side B track ") for number in (1, 2)]
    parts = [f"Folge 0{number} - The Lamp Teil {part}" for number in (1, 2) for part in (1, 2)]
    here = tree([f"{album}/{name} Slack Water.flac" for name in sides] + [f"{album} 2/{name}.mp3" for name in parts])
    here.ok("scan")
    assert here.ok("check", "--rule", "song-tags", "--json").lines == []


def test_a_subtitle_is_shared_only_by_versions_of_its_film(tree: Tree) -> None:
    versions = [f"{top}/Kelp (2001) {lines}.mkv" for top in ("Flat", "Apart") for lines in ("720p", "1080p")]
    others = ["Flat/Tern (1999).mkv", "Flat/Tern (1999).sv.forced.srt", "Flat/Tern (1999).srt", "Flat/Lanterns.srt"]
    here = tree([*versions, *others, "Flat/Kelp (2001).srt", "Apart/subtitles.srt", "Apart/Kelp (2001) 720p.en.srt"])
    here.ok("scan")
    found = here.ok("check", "--rule", "shared-subtitle", "--json", code=1).lines
    assert {one["path"] for one in found} == {"Flat/Kelp (2001).srt", "Apart/subtitles.srt"}
