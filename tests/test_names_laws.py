"""Laws of understanding names: what says nothing changes nothing, and no name is too strange to be looked at."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify import identify
from lazy_magpie.identify.vocabulary import SMALL_WORDS, WEAK, runs
from lazy_magpie.model import Kind, State, reason_of
from lazy_magpie.paths import split_ending
from lazy_magpie.planners.questions import ASKS
from tests.names import known_names

_CLEAR = [name for name in known_names() if name["state"] == "clear"]
_UNDERSTOOD = ("movie", "episode", "extra", "track", "game", "kit", "design", "font", "companion")
_SHELVES = {"movie": "Films", "extra": "Films", "episode": "Series", "track": "Music", "game": "Games", "kit": "Kits"}
_RELEASE = re.compile(r"(?i)\d{3,4}p|x26|rip|web|blu|hdtv|xvid|-[A-Z]+$|[(]\d[)]$| - copy")


def _with(change: Callable[[str], str | None]) -> Callable[[str, str], str | None]:
    """Return what changes the stem of a path's last part, None where the change does not fit it."""

    def changed(path: str, kind: str) -> str | None:
        folder, slash, name = path.rpartition("/")
        stem, ending = split_ending(name)
        new = change(stem)
        return None if new is None or new == stem else f"{folder}{slash}{new}{ending}"

    return changed


def _dots(stem: str) -> str | None:
    return None if "." in stem or " - " in stem or stem.lower().startswith("copy") else stem.replace(" ", ".")


def _released(path: str, kind: str) -> str | None:
    """Add release words behind a film's or an episode's name that has none."""
    stem, ending = split_ending(path)
    if kind not in ("movie", "episode") or _RELEASE.search(stem):
        return None
    separator = "." if "." in stem and " " not in stem else "_" if "_" in stem and " " not in stem else " "
    return separator.join([stem, "1080p", "WEB-DL", "x264-KNURL"]) + ending


def _on_shelf(path: str, kind: str) -> str | None:
    """Put a path without a shelf of its own on its kind's."""
    first = path.split("/", maxsplit=1)[0].lower()
    shelf = _SHELVES.get(kind)
    return f"{shelf}/{path}" if shelf and ("/" not in path or " " in first) and not first.endswith("fonts") else None


CHANGES: dict[str, Callable[[str, str], str | None]] = {
    "dots for spaces": _with(_dots),
    "underscores for spaces": _with(lambda stem: None if "." in stem else stem.replace(" ", "_")),
    "spaces twice": _with(lambda stem: stem.replace(" ", "  ")),
    "a second copy": _with(lambda stem: f"{stem} (1)"),
    "copied by hand": _with(lambda stem: f"{stem} - Copy"),
    "a longer dash": _with(lambda stem: stem.replace(" - ", " – ")),
    "letters and accents apart": lambda path, kind: unicodedata.normalize("NFD", path) if not path.isascii() else None,
    "in capitals": _with(str.upper),
    "in small letters": _with(str.lower),
    "release words behind": _released,
    "on its shelf": _on_shelf,
    "on an old disk": lambda path, kind: f"Old disk/Backup 2/{path}",
    "in a new folder": lambda path, kind: f"Downloads/New folder (3)/{path}" if "/" not in path else None,
}
"""Changes of a path that say nothing of what it is. A changed name may be in doubt, but never clear and other."""

_CASED = ("in capitals", "in small letters")


def _same(value: Any) -> Any:
    """Return a field's value without what a change may touch: case and separators."""
    return re.sub(r"\W+", "", value.casefold()) if isinstance(value, str) else value


_understood = lru_cache(maxsize=None)(identify)


@pytest.mark.parametrize("change", CHANGES)
def test_what_says_nothing_changes_nothing(change: str) -> None:
    tried = doubted = 0
    for name in _CLEAR:
        if name["kind"] not in _UNDERSTOOD or not (path := CHANGES[change](name["path"], name["kind"])):
            continue
        if change in _CASED and path.casefold() != name["path"].casefold():  # a letter that has no other case
            continue
        before, after = _understood(name["path"]), identify(path)
        tried += 1
        doubted += after.state is not State.CLEAR
        if after.state is State.CLEAR and not (change in _CASED and after.kind is Kind.EPISODE):
            assert after.kind is before.kind, path
            fields = {key: _same(value) for key, value in after.fields.items()}
            assert fields == {key: _same(value) for key, value in before.fields.items()}, path
    assert tried > 100 and doubted < tried / 10


_PIECES = st.sampled_from(
    (
        "S01E02 2x05 1987 (1987) [720p] x264 - . _ ( ) [ ] { } 【 】 & + ~ Part 2 CD1 of 4 2019-03-21 Salt, The "
        "Season Three E05 第3期 第11話 12 #7 v2 (En,Fr) (USA) [!] Copy trailer -sample 灯台 é ² ③ ٣ ' \" … WEB "
        "FRENCH Cut"
    ).split(" ")
)
_ENDINGS = st.sampled_from([".mkv", ".mp3", ".ch8", ".zip", ".pes", ".ttf", ".srt", ".jpg", ".cue", ".pdf", ".iso", ""])


@given(st.lists(_PIECES, max_size=8), st.sampled_from(["", " ", ".", "_"]), _ENDINGS, st.lists(_PIECES, max_size=4))
def test_no_name_is_too_strange(pieces: list[str], separator: str, ending: str, above: list[str]) -> None:
    path = "/".join([*(piece for piece in above if piece.strip(". ")), separator.join(pieces) + ending])
    found = identify(path)
    assert 0 <= found.confidence <= 1
    assert all(isinstance(value, str | int | bool | list) and value != "" for value in found.fields.values())


_TITLES = ("{} Lantern", "The {}", "Lantern {} Street", "{} and Me")
_IN_FILMS = ("{} (2001).mkv", "{} 2001 720p BluRay.mkv", "Films/{0} (2001)/{0}.mkv")
_IN_SHOWS = ("{} S01E02.mkv", "{} - 1x02 - Fog.avi", "Series/{}/Season 1/02 - Fog.mkv")
_IN_EPISODES = ("Pond Ward - S01E02 - {}.mkv", "Pond Ward/Season 1/02 - {}.mkv", "Pond Ward - 1x02 - {} (1080p).mkv")
_WORDS = sorted(
    " ".join(words).upper() if len(words) == 1 and len(words[0]) < 4 else " ".join(words).title()
    for words, row in runs().items()
    if row.strength == WEAK and not {*words} & SMALL_WORDS
)


@pytest.mark.parametrize(
    ("forms", "field"), [(_IN_FILMS, "title"), (_IN_SHOWS, "show"), (_IN_EPISODES, "episode_title")]
)
def test_a_word_for_a_release_may_stand_in_a_title(forms: tuple[str, ...], field: str) -> None:
    clear = tried = 0
    for word, pattern, form in itertools.product(_WORDS, _TITLES, forms):
        title = pattern.format(word)
        found = identify(form.format(title))
        tried += 1
        clear += found.state is State.CLEAR
        assert found.state is not State.CLEAR or found.fields.get(field) == title, form.format(title)
    assert clear > tried * 0.9


def test_every_doubt_is_a_question() -> None:
    names = [name["path"] for name in known_names()]
    reasons = {reason_of(doubt) for path in names for doubt in identify(path).doubts}
    assert len(reasons) > 12 and reasons <= ASKS.keys()


@given(st.text(max_size=40), _ENDINGS)
def test_any_text_is_a_name(stem: str, ending: str) -> None:
    assert identify(stem.replace("/", "-") + ending).kind in Kind
