"""Every title of the lists, written as people write names: read as it is, or in doubt, but never clear and other."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

import pytest

from lazy_magpie.identify import identify
from lazy_magpie.model import State
from tests.names import known_names

_NAMES = known_names()


class Form(NamedTuple):
    """How people write a name: `{}` is the title, `{dots}` and `{under}` the title with those for its spaces.

    `field` is what the title is, `fields` what the form says besides; none of `absent` may be read.
    """

    pattern: str
    kind: str
    field: str
    fields: dict[str, Any]
    absent: tuple[str, ...] = ()


_FILM = {"year": 1999}
_ALONE = ("edition", "part", "languages")
FILMS = [
    Form("{} (1999).mkv", "movie", "title", _FILM, _ALONE),
    Form("{} [1999] [720p].mkv", "movie", "title", _FILM, _ALONE),
    Form("{} 1999 DVDRip.avi", "movie", "title", _FILM, _ALONE),
    Form("{dots}.1999.720p.WEB.x264-TARN.mkv", "movie", "title", _FILM, _ALONE),
    Form("{under}_1999_DVDRip.avi", "movie", "title", _FILM, _ALONE),
    Form("(1999) {}.mkv", "movie", "title", _FILM, _ALONE),
    Form("{} (1999)/{}.mkv", "movie", "title", _FILM, _ALONE),
    Form("{} (1999)/movie.mkv", "movie", "title", _FILM, _ALONE),
    Form("{} (1999)/{} (1999) CD1.avi", "movie", "title", {**_FILM, "part": 1}),
    Form("{} (1999)/CD2/{}.avi", "movie", "title", {**_FILM, "part": 2}),
    Form("Films/{} (1999)/{} (1999) - Extended.mkv", "movie", "title", {**_FILM, "edition": "Extended"}),
    Form("{dots}.1999.FRENCH.720p.mkv", "movie", "title", {**_FILM, "languages": ["fr"]}),
    Form("[www.tarn.example] {} (1999).mkv", "movie", "title", _FILM, _ALONE),
    Form("Copy of {} (1999).mkv", "movie", "title", _FILM, _ALONE),
    Form("{} (1999)/{} (1999)-trailer.mkv", "extra", "of", {**_FILM, "extra": "trailer"}, ("title",)),
    Form("{} (1999)/Extras/Boats.mkv", "extra", "of", {**_FILM, "extra": "other", "title": "Boats"}),
    Form("{} (1999)/{} (1999).en.srt", "companion", "of", {**_FILM, "role": "subtitles", "language": "en"}),
    Form("{} (1999)/{} (1999).srt", "companion", "of", {**_FILM, "role": "subtitles"}, ("language", "forced")),
]
_EPISODE = {"season": 2, "episode": 5}
_ONE = ("show_year", "part", "languages", "last_episode")
SHOWS = [
    Form("{} S02E05.mkv", "episode", "show", _EPISODE, (*_ONE, "episode_title")),
    Form("{dots}.S02E05.720p.HDTV.x264-TARN.mkv", "episode", "show", _EPISODE, (*_ONE, "episode_title")),
    Form("{dots}.1999.S02E05.720p.mkv", "episode", "show", {**_EPISODE, "show_year": 1999}, ("episode_title",)),
    Form("{} - 2x05 - Fog.avi", "episode", "show", {**_EPISODE, "episode_title": "Fog"}, _ONE),
    Form("{} Season 2 Episode 5.mkv", "episode", "show", _EPISODE, _ONE),
    Form("{} S02E05-E06.mkv", "episode", "show", {**_EPISODE, "last_episode": 6}),
    Form("{} 2of4.avi", "episode", "show", {"season": 1, "episode": 2}),
    Form("{} 2019-03-21.mkv", "episode", "show", {"air_date": "2019-03-21"}, ("episode_title",)),
    Form("[Tarn] {} - 14 [720p].mkv", "episode", "show", {"running": 14}, ("episode_title",)),
    Form("{}/Season 2/05 - Fog.mkv", "episode", "show", {**_EPISODE, "episode_title": "Fog"}, _ONE),
    Form("{}/Season 2/{} - 05 - Fog.mkv", "episode", "show", {**_EPISODE, "episode_title": "Fog"}, _ONE),
    Form("{}/Season 2/{} S02E05.mkv", "episode", "show", _EPISODE, (*_ONE, "episode_title")),
    Form("Series/{}/S2/E05.mkv", "episode", "show", _EPISODE, (*_ONE, "episode_title")),
    Form("{} (1999)/Season 2/{} 2x05.mkv", "episode", "show", {**_EPISODE, "show_year": 1999}),
    Form("{}/Specials/03 - Fog.mkv", "episode", "show", {"season": 0, "episode": 3, "episode_title": "Fog"}),
    Form("{}/Season 2/{} S02E05.fr.srt", "companion", "of", {**_EPISODE, "language": "fr"}),
]
_OF_SHOW = {"show": "Pond Ward", **_EPISODE}
TITLES = [
    Form("Pond Ward - S02E05 - {}.mkv", "episode", "episode_title", _OF_SHOW),
    Form("Pond Ward S02E05 {}.mkv", "episode", "episode_title", _OF_SHOW),
    Form("Pond.Ward.S02E05.{dots}.720p.HDTV.x264-TARN.mkv", "episode", "episode_title", _OF_SHOW),
    Form("Pond Ward - 2x05 - {} [720p].mkv", "episode", "episode_title", _OF_SHOW),
    Form("Pond Ward - S02E05-E06 - {}.mkv", "episode", "episode_title", {**_OF_SHOW, "last_episode": 6}),
    Form("Pond Ward/Season 2/05 - {}.mkv", "episode", "episode_title", _OF_SHOW),
    Form("Pond Ward 2019-03-21 - {}.mkv", "episode", "episode_title", {"show": "Pond Ward", "air_date": "2019-03-21"}),
]
_SONG = {"artist": "Ash Wren", "album": "Kelp", "track": 3}
SONGS = [
    Form("Ash Wren/Kelp/03 - {}.mp3", "track", "title", _SONG, ("disc",)),
    Form("Ash Wren/Kelp/03 {}.mp3", "track", "title", _SONG, ("disc",)),
    Form("Ash Wren - Kelp - 03 - {}.mp3", "track", "title", _SONG, ("disc",)),
    Form("Ash Wren/Kelp (2003)/CD2/03. {}.mp3", "track", "title", {**_SONG, "disc": 2, "year": 2003}),
]
_IN = {"artist": "Ash Wren", "title": "Sand", "track": 3}
RECORDS = [
    Form("Music/Ash Wren/{} (2003)/03 - Sand.mp3", "track", "album", {**_IN, "year": 2003}, ("disc",)),
    Form("Music/Ash Wren/{}/03 - Sand.mp3", "track", "album", _IN, ("disc", "year")),
    Form("Music/{}/Kelp (2003)/03 - Sand.mp3", "track", "artist", {"album": "Kelp", "title": "Sand", "year": 2003}),
]
_JAPAN = {"regions": ["Japan"]}
GAMES = [
    Form("chip8/{}.ch8", "game", "title", {"system": "chip8"}, ("revision", "disc", "year", "regions")),
    Form("chip8/{} (Japan).ch8", "game", "title", {**_JAPAN, "system": "chip8"}, ("revision", "disc", "year")),
    Form("chip8/{under}_(J)_[!].ch8", "game", "title", _JAPAN),
    Form("Games/chip8/{} (Japan) (Rev 1).zip", "game", "title", {**_JAPAN, "revision": "1"}),
]
_MADE = {"maker": "Loom Lane"}
KITS = [
    Form("Kits/Loom Lane/{}/Papers/a.jpg", "kit", "title", {**_MADE, "section": "papers"}),
    Form("Kits/Loom Lane - {}/Elements/a.png", "kit", "title", {**_MADE, "section": "elements"}),
    Form("Kits/Loom Lane/{} - Papers.zip", "kit", "title", {**_MADE, "section": "papers"}, ("part",)),
    Form("Kits/Loom Lane/{}/Licence.txt", "companion", "of", {**_MADE, "role": "licence"}),
]
MAKERS = [
    Form("Kits/{}/Fern Walk/Papers/a.jpg", "kit", "maker", {"title": "Fern Walk", "section": "papers"}),
    Form("Kits/{} - Fern Walk/Papers/a.jpg", "kit", "maker", {"title": "Fern Walk", "section": "papers"}),
    Form("Designs/{}/Crab Wreath/crab-wreath.pes", "design", "maker", {"title": "Crab Wreath"}),
    Form("Stitch fonts/{}/Rope Caps 2in/A.pes", "font", "maker", {"family": "Rope Caps 2in", "glyph": "A"}),
]
DESIGNS = [
    Form("Designs/Loom Lane/{}/{}.pes", "design", "title", _MADE, ("code",)),
    Form("Designs/Loom Lane/{}/{} 4x4.pes", "design", "title", _MADE, ("code",)),
    Form("Designs/Loom Lane/ll0123-{under}.pes", "design", "title", {**_MADE, "code": "ll0123"}),
]


def _values(kind: str, *fields: str) -> list[str]:
    """Return the values that some fields have in the lists, those that can be a part of a path."""
    clear = [name["fields"] for name in _NAMES if (name["kind"], name["state"]) == (kind, "clear")]
    found = {named[field] for named in clear for field in fields if field in named}
    return sorted(value for value in found if "/" not in value and not value.startswith("."))


def _named(*lists: list[str]) -> list[str]:
    """Return names that a maker or an item has: no number or letter alone, which is a year's, a code or a shelf's
    part, no hyphen, which parts two, no capital inside a word, no word that means a folder of something else."""
    wrong = re.compile(r"[(\[]| - |^\d+$|^[A-Z]-?\d+$|\d x \d|^.$|^R\.O|[a-z][A-Z]|^TV$|^(?:The )?Disc$|^Subtitle$")
    return [name for names in lists for name in names if not wrong.search(name)]


_ALL = {
    "films": (FILMS, _values("movie", "title")),
    "shows": (SHOWS, _values("episode", "show")),
    "episodes": (TITLES, _values("episode", "episode_title")),
    "songs": (SONGS, [*_values("track", "title"), *_values("episode", "episode_title")]),
    "games": (GAMES, [t for t in (*_values("game", "title"), *_values("movie", "title")) if not set("([") & {*t}]),
    "kits": (KITS, _named(_values("kit", "title"), _values("movie", "title"))),
    "makers": (MAKERS, _named(_values("kit", "maker"), _values("movie", "title"))),
    "designs": (DESIGNS, _named(_values("design", "title"), _values("episode", "show"))),
    "records": (
        RECORDS,
        [
            title
            for title in (*_values("track", "album", "artist"), *_values("movie", "title"))
            if not re.search(r"\(| - \d{4}$", title)  # "Nell - 1962" is a record with its year
        ],
    ),
}


def _written(form: Form, title: str) -> str:
    """Return the path that a form makes of a title."""
    pattern = form.pattern.replace("{dots}", title.replace(" ", ".")).replace("{under}", title.replace(" ", "_"))
    return pattern.replace("{}", title)


def _others(form: Form, title: str) -> Iterator[str]:
    """Yield what is read other than it is in a form of a title that is called clear."""
    found = identify(_written(form, title))
    loose = "{}" not in form.pattern  # with dots for spaces a title's own dots are lost
    if found.state is not State.CLEAR:
        return
    if found.kind.value != form.kind:
        yield f"{found.kind}"
    for field, value in {form.field: title, **form.fields}.items():
        read = found.fields.get(field)
        if read != value and not (loose and _plain(read) == _plain(value)):
            yield f"{field} {read}"
    yield from (f"{field} {found.fields[field]}" for field in form.absent if field in found.fields)


def _plain(value: object) -> str:
    return re.sub(r"\W+", "", str(value)).casefold()


@pytest.mark.parametrize("what", _ALL)
def test_every_title_in_every_form(what: str) -> None:
    forms, titles = _ALL[what]
    assert len(titles) > 80
    faults = [(_written(form, title), *_others(form, title)) for form in forms for title in titles]
    assert [fault for fault in faults if len(fault) > 1] == []
