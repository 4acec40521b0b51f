"""Collections in many languages: seasons, episodes, parts, extras and what is left over are read by the vocabulary."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.identify import folders
from tests.conftest import Collection, program

Tree = Callable[..., Collection]
Row = dict[str, Any]

COUNTED: dict[str, tuple[str, Row]] = {
    "Serien/Wattlicht/Erste Staffel/Wattlicht - 04 - Ebbe.avi": ("episode", {"season": 1, "episode": 4}),
    "Serie/Commissario Bora/Quarta Stagione/03 - Acqua Alta.avi": ("episode", {"season": 4, "episode": 3}),
    "Seriály/Karavana/Karavana (5z6) - Modul.avi": ("episode", {"season": 1, "episode": 5, "show": "Karavana"}),
    "Series/Sal y hierro/Sal y hierro 2de3 [DVDRip].avi": ("episode", {"episode": 2, "show": "Sal y hierro"}),
    "Diziler/Rüzgarlı Konak/1. Sezon/ruzgarli konak 7.bolum.mp4": (
        "episode",
        {"season": 1, "episode": 7, "show": "Rüzgarlı Konak"},
    ),
    "드라마/등대의 밤/시즌 1/05회.mp4": ("episode", {"season": 1, "episode": 5, "show": "등대의 밤"}),
    "Series/El puerto gris/El puerto gris - Temporada 2 [Cap.202_203].mkv": (
        "episode",
        {"season": 2, "episode": 2, "last_episode": 3, "show": "El puerto gris"},
    ),
    "Série/Latarnik/Latarnik.S01E04.PL.480p.WEB-DL.XviD-MGLA.avi": (
        "episode",
        {"season": 1, "episode": 4, "languages": ["pl"]},
    ),
    "Film/Gialli/La Dama (1971) - 2° tempo.avi": ("movie", {"title": "La Dama", "year": 1971, "part": 2}),
    "Films/Zilte Grond (1996) deel 2.avi": ("movie", {"title": "Zilte Grond", "part": 2}),
    "Filmy/Zlaté šípy 2 (1994) CZ.avi": ("movie", {"title": "Zlaté šípy 2", "languages": ["cs"]}),
    "Cine/La Bruma (1984) versión restaurada.mkv": ("movie", {"title": "La Bruma", "edition": "Restored"}),
    "Filme/Der Nebel (1999) Langfassung Deutsch.mkv": ("movie", {"edition": "Extended", "languages": ["de"]}),
    "Filmler/Demir Orman 2015 Türkçe Dublaj 1080p.mkv": ("movie", {"title": "Demir Orman", "year": 2015}),
    "下载/长街风云S03E01.mp4": ("episode", {"season": 3, "episode": 1, "show": "长街风云"}),
    "动画/[云雀]纸鹤船[01-06][1080P]/[云雀]纸鹤船[02][1080P].mp4": ("episode", {"running": 2, "show": "纸鹤船"}),
    "Ντοκιμαντέρ/Οι Σφουγγαράδες - Μέρος 1 από 2.avi": ("episode", {"episode": 1, "show": "Οι Σφουγγαράδες"}),
    "Сериалы/Участок на Каменной/Сезон 1/Uchastok.na.Kamennoj.s01e04.avi": (
        "episode",
        {"show": "Участок на Каменной", "season": 1, "episode": 4},
    ),
    "TV/Ferret & Sons/Series 2/ferret sons 2x06 the wedding.mp4": ("episode", {"show": "Ferret & Sons"}),
    "TV/Inspector Calloway, all that was shown/Series 1/Inspector Calloway 1x01.avi": (
        "episode",
        {"show": "Inspector Calloway", "season": 1},
    ),
    "Serien/Der Uhrmacher (Vierteiler)/Teil 2.avi": ("episode", {"show": "Der Uhrmacher", "episode": 2}),
}


EXTRAS: dict[str, Row] = {
    "Films/L'Été (2003)/Bande-annonce.avi": {"extra": "trailer", "of": "L'Été"},
    "Films/Kerst (2012)/Extra's/Achter de schermen.mkv": {"extra": "behind the scenes", "of": "Kerst"},
    "Seriály/Karavana (1999)/Bonusy/Rozhovor s autorem.avi": {"extra": "interview", "of": "Karavana"},
    "드라마/종로 탐정/종로 탐정 - 촬영 현장.avi": {"extra": "behind the scenes", "of": "종로 탐정"},
    "Heap/[Nagisa] Kaze no Minato - NCOP1 [BD 1080p].mkv": {"extra": "other", "of": "Kaze no Minato"},
    "Heap/Sample/paper.compass.2011.sample.mkv": {"extra": "sample", "of": "Paper Compass", "year": 2011},
    "Old/Brass Canary sample.avi": {"extra": "sample", "of": "Brass Canary"},
}
NO_EXTRAS = (
    "Films/Sample (1988).mkv",
    "Films/Free Sample.mkv",
    "Films/Free Sample (2012).mkv",
    "Films/Der Trailer (2001).mkv",
    "Filme/Kurzfilme/Der Fisch (1999).mkv",
    "Kurse/Zahlen/01. Why Sample.mp4",
)
LEFT = {
    "Spiele/BIOS/psx/psx_bios_eu.bin": "firmware",
    "Spiele/BIOS/dc_boot.bin": "firmware",
    "Spiele/Konsolen/gb/Kelp (Europe).gb": "game",
    "Old/hiberfil.sys": "junk",
    "Old/.~lock.list.odt#": "junk",
    "Old/.fuse_hidden00ab12": "junk",
    "Old/Shortcut to Films.lnk": "junk",
    "Old/film.mkv.!dl": "unfinished",
    "Old/雪.2019.mp4.td": "unfinished",
    "Old/Unconfirmed 12.crdownload": "unfinished",
    "Old/.film.mkv.icloud": "unfinished",
    "Old/Shortcut to the Sea (1999).mkv": "movie",
    "Old/descript.ion": "unknown",
    "Old/talk.pptx": "document",
}


def _read(collection: Collection) -> dict[str, Row]:
    collection.ok("scan")
    return {
        file["path"]: {
            **item["fields"],
            "aired": item["facts"].get("air_date"),
            "kind": item["kind"],
            "state": item["state"],
            "role": file["role"],
        }
        for item in collection.ok("find", "--json").lines
        for file in item["files"]
    }


@pytest.fixture
def everything(tree: Tree) -> dict[str, Row]:
    films = ("Films/L'Été (2003)/L'Été (2003).avi", "Films/Kerst (2012)/Kerst (2012).mkv",
             "Seriály/Karavana (1999)/Karavana 1x01.avi", "드라마/종로 탐정/종로 탐정 S01E01.avi")  # fmt: skip
    return _read(tree([*COUNTED, *EXTRAS, *NO_EXTRAS, *LEFT, *films], ""))


def test_names_of_many_languages(everything: dict[str, Row]) -> None:
    for path, (kind, fields) in COUNTED.items():
        assert everything[path]["kind"] == kind, path
        assert {field: everything[path].get(field) for field in fields} == fields, path
    for path, fields in EXTRAS.items():
        assert everything[path]["kind"] == "extra", path
        assert {field: everything[path].get(field) for field in fields} == fields, path
    assert {path for path in NO_EXTRAS if everything[path]["kind"] == "extra"} == set()
    assert {path: everything[path]["kind"] for path in LEFT} == LEFT


def test_a_show_without_seasons_that_counts_on_is_clear(tree: Tree) -> None:
    whole = [f"Series/Kapitein Knoop/Kapitein Knoop - Aflevering {n} - Haven.avi" for n in (1, 2, 3)]
    lessons = [f"Videos/Rumba from the Ground Up/Lesson 0{n} - Step {n}.mp4" for n in (1, 2, 3)]
    shown = [f"드라마/우체국/우체국.E0{n}.18031{n}.720p-NEXT.mp4" for n in (1, 2, 3)]
    lone = "Heap/Waldwichtel Folge 4.mp4"
    found = _read(tree([*whole, *lessons, *shown, lone], ""))
    for paths, show in ((whole, "Kapitein Knoop"), (lessons, "Rumba from the Ground Up"), (shown, "우체국")):
        read = [found[path] for path in paths]
        assert [(one["show"], one["season"], one["episode"]) for one in read] == [(show, 1, n) for n in (1, 2, 3)]
    assert {found[path]["state"] for path in (*whole, *shown)} == {"clear"}
    assert found[shown[1]]["aired"] == "2018-03-12"
    assert found[lone]["state"] == "doubtful"


def test_two_shows_are_not_one_spelling(tree: Tree) -> None:
    path = "TV/Star Lanes - Deep Station/Season 1/Star Lanes S01E01.mkv"
    assert _read(tree([path], ""))[path]["state"] == "doubtful"


def test_subtitles_say_their_language_in_any(tree: Tree) -> None:
    film = "Cine/La Bruma (1984)/La Bruma (1984)"
    collection = tree([f"{film}.mkv", f"{film}.Español.forzados.srt", f"{film}.Englisch.srt"], "")
    collection.ok("scan")
    plan = collection.ok("rename", f"{film}.mkv", "--append", " old", "--json").lines[0]
    assert len(plan["steps"]) == 3
    said = {path: collection.ok("explain", path, "--json").lines[0] for path in (f"{film}.Español.forzados.srt",)}
    fields = next(iter(said.values()))["fields"]
    assert (fields["language"], fields["forced"]) == ("es", True)


def test_what_lies_in_a_heap_by_chance_belongs_to_nothing(tree: Tree) -> None:
    episode = "Downloads/brumes.de.kerlaouen.s03e01.french.hdtv.x264.mkv"
    bill, photo = "Downloads/facture_box_2019-03.pdf", "Holiday/IMG_0412.JPG"
    found = _read(tree([episode, bill, photo, "Holiday/IMG_0413.JPG", "Holiday/MVI_0416.AVI"], ""))
    assert (found[bill]["kind"], found[bill]["role"]) == ("document", "main")
    assert (found[photo]["kind"], found[photo]["role"]) == ("picture", "main")
    assert "episode" not in found["Holiday/MVI_0416.AVI"] and found["Holiday/MVI_0416.AVI"]["state"] == "doubtful"


def test_letters_alone_are_a_font_however_few(tree: Tree) -> None:
    found = _read(tree([f"Stitch letters/Barn Block/{letter}.pes" for letter in "ABC"], ""))
    assert {one["kind"] for one in found.values()} == {"font"}


def test_an_album_that_is_half_its_folders_name_is_no_clear_one(tree: Tree) -> None:
    songs = [f"Musik/Aurelius Tannwald/1983-02-14 The Copper Wherry/0{n} - Lied {n}.mp3" for n in (1, 2, 3)]
    assert {one["state"] for one in _read(tree(songs, "")).values()} == {"doubtful"}


def test_a_folder_whose_name_nobody_foresaw_costs_nothing(tree: Tree, monkeypatch: pytest.MonkeyPatch) -> None:
    def fails(text: str) -> folders.Folder:
        raise ValueError(text)

    monkeypatch.setattr(folders, "_understood", fails)
    folders.understand.cache_clear()  # type: ignore[attr-defined]
    try:
        found = _read(tree(["Films/Kelp Caf\udce9/Dune Grass (2004).mkv", "Films/Ebb/Ebb (1999).mkv"], ""))
    finally:
        folders.understand.cache_clear()  # type: ignore[attr-defined]
    assert {one["title"] for one in found.values()} == {"Dune Grass", "Ebb"}


@pytest.mark.parametrize("folder", ["T1", "T01", "S1", "Temp1", "Staffel 1", "1. évad"])
def test_a_season_in_few_letters_is_no_show(folder: str, tmp_path: Path) -> None:
    answer = program("explain", "--json", f"Series/Calle Olmo/{folder}/1x01 Llegada.mkv", cwd=tmp_path)
    fields = answer.lines[0]["fields"]
    assert (fields["show"], fields["season"], fields["episode"]) == ("Calle Olmo", 1, 1)


@pytest.mark.parametrize("lesson", ["Lesson", "Séance", "Lektion", "Clase", "Aula", "Lekce", "Занятие"])
def test_a_word_for_a_lesson_is_clearly_no_show(tree: Tree, lesson: str) -> None:
    here = tree([f"Courses/Knots with Nadia/{lesson} {number}.mp4" for number in (1, 2, 3)], "")
    here.ok("scan")
    assert not [one for one in here.ok("find", "--json").lines
                if one["state"] == "clear" and one["fields"].get("show") == lesson]  # fmt: skip
